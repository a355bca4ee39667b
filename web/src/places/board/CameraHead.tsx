// A row's head: the camera's name, lens and frame, and its settings.
import { Menu, Modal, NumberInput, Switch, TextInput } from '@mantine/core';
import { useQueryClient } from '@tanstack/react-query';
import { type Project } from '@variscen/contract';
import { LOST_WITH_DROPPED } from '@variscen/core/cull';
import { useState } from 'react';
import { call } from '../../api/client.ts';
import { keys } from '../../api/queries.ts';
import { sayError } from '../../shared/notify.ts';

export function CameraHead({ project, camera, onChoose }: { project: Project; camera: Project['cameras'][number]; onChoose: (add: boolean) => void }) {
  const [editing, setEditing] = useState(false), s = camera.settings;
  return (
    <div role="rowheader" style={{ alignSelf: 'center', position: 'sticky', left: 0, background: 'var(--table)', zIndex: 1, padding: '4px 0' }}>
      <Menu position="right-start">
        <Menu.Target><button type="button" style={{ fontWeight: 600 }} aria-label={`Camera ${camera.name}`}>{camera.name}</button></Menu.Target>
        <Menu.Dropdown><Menu.Item onClick={() => onChoose(false)}>Choose the row</Menu.Item><Menu.Item onClick={() => onChoose(true)}>Add the row to what is chosen</Menu.Item><Menu.Item onClick={() => setEditing(true)}>Settings…</Menu.Item></Menu.Dropdown>
      </Menu>
      <div className="mono dim" style={{ fontSize: 11 }}>{s.projection === 'perspective' ? `${Number(s.focalLengthMm.toPrecision(3))} mm` : 'parallel'}<br />{s.widthPx} × {s.heightPx}{s.frame ? <><br />frame {s.frame}</> : null}{s.crop && <><br />a part</>}{s.cullMarginPct !== null && <><br />culls, {s.cullMarginPct} %</>}</div>
      {editing && <Settings project={project} camera={camera} onClose={() => setEditing(false)} />}
    </div>
  );
}

function Settings({ project, camera, onClose }: { project: Project; camera: Project['cameras'][number]; onClose: () => void }) {
  const client = useQueryClient(), [name, setName] = useState(camera.name), [s, setS] = useState(camera.settings), [busy, setBusy] = useState(false);
  const optional = (label: string, key: 'shiftX' | 'shiftY') => <NumberInput label={label} suffix=" %" min={-200} max={200} decimalScale={1} value={Math.round((s[key] ?? 0) * 1000) / 10} onChange={(v) => { if (typeof v === 'number') setS({ ...s, [key]: v === 0 ? undefined : v / 100 }); }} />;
  const number = (label: string, key: 'widthPx' | 'heightPx' | 'focalLengthMm' | 'nearM' | 'farM' | 'focusDistanceM', unit: string, min: number, max: number, decimals: number) => (
    <NumberInput label={label} suffix={` ${unit}`} min={min} max={max} decimalScale={decimals} clampBehavior="blur" value={s[key]} onChange={(v) => { if (typeof v === 'number') setS({ ...s, [key]: v }); }} />
  );
  const crop = (label: string, key: 'left' | 'top' | 'right' | 'bottom') => <NumberInput label={label} suffix=" %" min={0} max={100} decimalScale={2} value={s.crop?.[key] ?? 0} onChange={(v) => { if (typeof v === 'number' && s.crop) setS({ ...s, crop: { ...s.crop, [key]: v } }); }} />;
  const save = async () => {
    setBusy(true);
    try { await call('updateCamera', { params: { projectId: project.id, cameraId: camera.id }, body: { name, settings: s } }); await client.invalidateQueries({ queryKey: keys.project(project.id) }); await client.invalidateQueries({ queryKey: keys.board(project.id) }); onClose(); } catch (e) { sayError(e); } finally { setBusy(false); }
  };
  return (
    <Modal opened onClose={onClose} title={`Camera “${camera.name}”`}>
      <form onSubmit={(e) => { e.preventDefault(); void save(); }} style={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 10 }}>
        <TextInput label="Name" value={name} onChange={(e) => setName(e.currentTarget.value)} maxLength={120} style={{ gridColumn: '1 / 3' }} data-autofocus />
        {number('Width', 'widthPx', 'px', 16, 16384, 0)}{number('Height', 'heightPx', 'px', 16, 16384, 0)}
        {number('Focal length', 'focalLengthMm', 'mm', 1, 2000, 2)}
        <NumberInput label="F-stop (empty: all sharp)" prefix="f/" min={0.1} max={128} decimalScale={1} value={s.fStop ?? ''} onChange={(v) => setS({ ...s, fStop: typeof v === 'number' ? v : null })} />
        {number('Focus distance', 'focusDistanceM', 'm', 0.001, 1e6, 3)}<NumberInput label="Aperture blades (empty: round)" min={3} max={32} decimalScale={0} clampBehavior="blur" value={s.blades ?? ''} onChange={(v) => setS({ ...s, blades: typeof v === 'number' ? v : undefined })} />
        {optional('Shift right, of the width', 'shiftX')}{optional('Shift up, of the height', 'shiftY')}
        {number('Near plane', 'nearM', 'm', 0.0001, 1e6, 4)}{number('Far plane', 'farM', 'm', 0.001, 1e7, 2)}
        <NumberInput label="Frame of an animated scene" min={0} max={1e6} decimalScale={2} value={s.frame ?? 0} onChange={(v) => { if (typeof v === 'number') setS({ ...s, frame: v === 0 ? undefined : v }); }} /><span />
        {s.follows !== undefined && <p className="dim" style={{ gridColumn: '1 / 3', margin: 0 }}>Moves with “{s.follows}” of the scene.</p>}
        <hr className="hair" style={{ gridColumn: '1 / 3', width: '100%', margin: '4px 0' }} />
        <Switch label="Render only a part of the frame" checked={s.crop !== undefined} onChange={(e) => setS({ ...s, crop: e.currentTarget.checked ? { left: 25, top: 25, right: 75, bottom: 75 } : undefined })} style={{ gridColumn: '1 / 3' }} />
        {s.crop && <>{crop('Left edge, from the left', 'left')}{crop('Right edge, from the left', 'right')}{crop('Top edge, from the top', 'top')}{crop('Bottom edge, from the top', 'bottom')}</>}
        <Switch label="Leave out objects outside the frame" checked={s.cullMarginPct !== null} onChange={(e) => setS({ ...s, cullMarginPct: e.currentTarget.checked ? 10 : null })} style={{ gridColumn: '1 / 3' }} />
        {s.cullMarginPct !== null && <NumberInput label="Margin around the frame" suffix=" %" min={0} max={1000} value={s.cullMarginPct} onChange={(v) => setS({ ...s, cullMarginPct: typeof v === 'number' ? v : 0 })} />}
        <p className="dim" style={{ gridColumn: '1 / 3', margin: 0 }}>Saves memory. {LOST_WITH_DROPPED} Whatever gives light always stays.</p>
        <div style={{ gridColumn: '1 / 3', display: 'flex', gap: 8, justifyContent: 'flex-end' }}><button type="button" className="quiet" onClick={onClose}>Cancel</button><button type="submit" className="go" disabled={busy || !name.trim()}>Save camera</button></div>
      </form>
    </Modal>
  );
}
