// Edits that are captured but not kept: each as "object, property, was → is"; kept, kept as a new option, or discarded.
import { Modal, TextInput } from '@mantine/core';
import { useQueryClient } from '@tanstack/react-query';
import type { Project } from '@variscen/contract';
import { type Change, FACET_NAMES, type Facet, type SceneIndex, changeText, keyOf, parseTarget, propertyOf, unitOf, valueText } from '@variscen/core/looks';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef, useState } from 'react';
import { call } from '../../api/client.ts';
import { keys, setProject } from '../../api/queries.ts';
import { plural } from '../../shared/format.ts';
import { sayError } from '../../shared/notify.ts';
import { Buttons } from '../../shared/Buttons.tsx';
import type { Destination, PendingWriter } from './edits.ts';

interface Props { project: Project; index: SceneIndex | undefined; destination: Destination; pending: readonly Change[]; elsewhere: number; writer: PendingWriter; onKeptAs: (optionId: string) => void }

/** Thousands of edits may be pending: only rows on screen exist. */
const ROW_PX = 20;

export function PendingTray({ project, index, destination, pending, elsewhere, writer, onKeptAs }: Props) {
  const client = useQueryClient(), [naming, setNaming] = useState<Facet | null>(null), [name, setName] = useState(''), facets = [...new Set(pending.map((c) => propertyOf(c.property)?.facet).filter((f) => f !== undefined))];
  const box = useRef<HTMLDivElement>(null), list = useVirtualizer({ count: pending.length, getScrollElement: () => box.current, estimateSize: () => ROW_PX, overscan: 6 });
  const keep = async (as?: { facet: Facet; name: string }) => {
    try {
      const p = await call('keepPending', { params: { projectId: project.id }, body: { destination: destination.id, ...(as && { as }) } });
      setProject(client, p);
      await client.invalidateQueries({ queryKey: keys.board(project.id) });
      const made = as && p.options.find((o) => o.facet === as.facet && o.name === as.name);
      if (made) onKeptAs(made.id);
      setNaming(null);
    } catch (e) { sayError(e); }
  };
  const was = (c: Change) => { const recorded = recordedIn(project, destination.id).find((x) => keyOf(x.target, x.property) === keyOf(c.target, c.property))?.value ?? (index && propertyOf(c.property)?.base(index, parseTarget(c.target)?.name ?? '')); return recorded; };
  return (
    <section aria-label="Pending edits" style={{ borderLeft: '1px solid var(--line)', borderTop: '1px solid var(--line)', padding: '10px 14px', fontSize: 12, display: 'grid', gridTemplateRows: 'auto minmax(0, 1fr) auto', minHeight: 0 }}>
      <h4 className="ellipsis">{pending.length ? `Pending in ${destination.label}` : 'Nothing pending'}</h4>
      <div ref={box} style={{ overflow: 'auto' }}>
        {pending.length > 0 && <div style={{ height: list.getTotalSize(), position: 'relative' }}>
          {list.getVirtualItems().map((item) => { const c = pending[item.index]!, property = propertyOf(c.property), unit = property && index ? unitOf(property, index, c.target) : ''; return (
            <div key={item.index} style={{ position: 'absolute', top: item.start, left: 0, right: 0, display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) auto 18px', lineHeight: `${ROW_PX}px`, gap: 4 }}><span className="ellipsis" title={c.target}>{changeText(c)}</span><span className="mono dim" style={{ fontSize: 11 }}>{valueText(property, was(c))} → {valueText(property, c.value, unit)}</span><button type="button" aria-label={`Discard ${changeText(c)}`} onClick={() => writer.replace(destination.id, (old) => old.filter((x) => keyOf(x.target, x.property) !== keyOf(c.target, c.property)))} style={{ color: 'var(--dim)' }}>×</button></div>
          ); })}
        </div>}
        {!pending.length && <p className="dim" style={{ margin: 0 }}>What you change is captured here first, then kept or discarded.{elsewhere > 0 && ` ${plural(elsewhere, 'edit')} pending in other destinations.`}</p>}
      </div>
      {pending.length > 0 && (
        <div style={{ display: 'flex', gap: 5, paddingTop: 6, whiteSpace: 'nowrap' }}>
          <button type="button" className="go" style={{ padding: '5px 8px' }} onClick={() => void keep()}>Keep {plural(pending.length, 'change')}</button>
          <button type="button" className="quiet" style={{ padding: '5px 7px' }} onClick={() => { setName(''); setNaming(facets[0] ?? null); }}>Keep as…</button>
          <button type="button" className="quiet" style={{ padding: '5px 7px' }} onClick={() => writer.replace(destination.id, () => [])}>Discard</button>
        </div>
      )}
      <Modal opened={naming !== null} onClose={() => setNaming(null)} title="Keep these changes as a new option">
        {naming && <form onSubmit={(e) => { e.preventDefault(); void keep({ facet: naming, name: name.trim() }); }}>
          {facets.length > 1 && <div style={{ display: 'flex', gap: 6, marginBottom: 10 }}>{facets.map((f) => <button type="button" key={f} className="quiet" aria-pressed={f === naming} style={f === naming ? { background: 'var(--raised)' } : undefined} onClick={() => setNaming(f)}>{FACET_NAMES[f]}</button>)}</div>}
          <TextInput data-autofocus label={`Name of the ${FACET_NAMES[naming]} option`} value={name} onChange={(e) => setName(e.currentTarget.value)} maxLength={120} />
          <p className="dim">{plural(pending.filter((c) => propertyOf(c.property)?.facet === naming).length, 'change')} go into it{facets.length > 1 && '; the others stay pending here'}.</p>
          <Buttons label="Keep as option" disabled={!name.trim()} onCancel={() => setNaming(null)} />
        </form>}
      </Modal>
    </section>
  );
}

function recordedIn(p: Project, destination: string): readonly Change[] {
  const [kind, a, b] = destination.split(':');
  if (kind === 'base') return p.base as Change[];
  if (kind === 'option') return (p.options.find((o) => o.id === a)?.changes ?? []) as Change[];
  return (p.patches.find((x) => x.cameraId === a && x.variantId === (kind === 'cell' ? b : null))?.changes ?? []) as Change[];
}
