// The scene: tree, view, inspector; options below. What hands change here goes to the destination that the sentence names.
import { Modal } from '@mantine/core';
import { useQueryClient } from '@tanstack/react-query';
import type { Project } from '@variscen/contract';
import { type Change, FACET_NAMES, type Value, layersOf, propertyOf, resolve } from '@variscen/core/looks';
import { type KeyboardEvent, useCallback, useEffect, useMemo, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { useScene } from '../../api/queries.ts';
import { Pick } from '../../shell/Pick.tsx';
import { facetColor } from '../../shared/glyphs.tsx';
import { plural } from '../../shared/format.ts';
import { Inspector } from './Inspector.tsx';
import { OptionStrip } from './OptionStrip.tsx';
import { PendingTray } from './PendingTray.tsx';
import { Tree } from './Tree.tsx';
import { View } from './View.tsx';
import { type Destination, PendingWriter, destinationsOf, fits, pendingOf } from './edits.ts';

export function StagePlace({ project }: { project: Project }) {
  const [search, setSearch] = useSearchParams(), client = useQueryClient(), scene = useScene(project.revision?.sceneHash), writer = useMemo(() => new PendingWriter(client, project.id), [client, project.id]);
  const [misplaced, setMisplaced] = useState<Change | null>(null), [free, setFree] = useState(false);
  const put = useCallback((set: Record<string, string | null>) => setSearch((old) => { const next = new URLSearchParams(old); for (const [k, v] of Object.entries(set)) if (v === null) next.delete(k); else next.set(k, v); return next; }, { replace: true }), [setSearch]);
  const camera = project.cameras.find((c) => c.id === search.get('camera')) ?? project.cameras[0], variant = project.variants.find((v) => v.id === search.get('variant')) ?? project.variants[0], selected = search.get('selected');
  const destinations = useMemo(() => (variant ? destinationsOf(project, camera?.id ?? '', variant) : []), [project, camera?.id, variant]), destination = destinations.find((d) => d.id === search.get('to')) ?? destinations[0];
  // an option that is being edited is shown even where the variant does not use it
  const lone = destination?.id.startsWith('option:') && variant && !variant.optionIds.includes(destination.id.slice(7)) ? destination.id.slice(7) : null;
  const state = useMemo(() => (scene.data && variant ? resolve(scene.data, layersOf(project as never, lone ? { ...variant, optionIds: [...variant.optionIds, lone] } : variant, camera?.id ?? '', project.pending as never)) : undefined), [scene.data, project, variant, camera?.id, lone]);

  const edit = useCallback((target: string, property: string, value: Value) => {
    const change = { target, property, value };
    if (destination && fits(change, destination)) writer.record(destination.id, [change]); else setMisplaced(change);
  }, [destination, writer]);
  const flip = useCallback((step: number) => {
    const i = project.variants.findIndex((v) => v.id === variant?.id), next = project.variants[(i + step + project.variants.length) % project.variants.length];
    if (next) put({ variant: next.id });
  }, [project.variants, variant?.id, put]);
  useEffect(() => {
    const onKey = (e: globalThis.KeyboardEvent) => {
      if (e.target instanceof HTMLElement && (e.target.closest('input, textarea, [role=dialog], [role=menu]') ?? e.target.isContentEditable)) return;
      if (e.key === ',' || e.key === '.') { flip(e.key === '.' ? 1 : -1); e.preventDefault(); }
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [flip]);

  if (!project.revision) return <><header className="sentence">“{project.name}” has no scene yet.</header><main className="place empty"><h1>Bring a scene in first</h1><p>The stage shows it, its lights and cameras.</p><Link className="go" to="/projects" style={{ textDecoration: 'none' }}>Go to the projects</Link></main></>;
  if (!variant || !destination) return <><header className="sentence">“{project.name}” has no variant.</header><main className="place empty"><h1>Make a variant first</h1><p>On the board, from any options or none.</p><Link className="go" to={`/projects/${project.id}/board`} style={{ textDecoration: 'none' }}>Go to the board</Link></main></>;
  const pending = pendingOf(project, destination.id), elsewhere = project.pending.filter((x) => x.destination !== destination.id).reduce((n, x) => n + x.changes.length, 0);
  return (
    <>
      <header className="sentence" style={facetColor(destination.facet ?? null)}>
        {free || !camera ? 'Looking around in ' : 'Looking through '}
        {camera && !free && <><Pick label="Camera" value={camera.name} choices={project.cameras.map((c) => ({ id: c.id, label: c.name }))} onPick={(id) => { put({ camera: id }); setFree(false); }} />{' in '}</>}
        <Pick label="Variant" value={variant.name} choices={project.variants.map((v) => ({ id: v.id, label: v.name }))} onPick={(id) => put({ variant: id })} />
        {'. Edits go to '}
        <Pick label="Edits go to" value={destination.label} facet={destination.facet} choices={destinations.map((d) => ({ id: d.id, label: d.label, facet: d.facet, section: d.facet ? FACET_NAMES[d.facet] : d.id === 'base' ? 'Everything' : 'Patches' }))} onPick={(id) => put({ to: id })} />
        {'.'}
        {pending.length > 0 && <span className="pending" role="status">{pending.length} pending</span>}
        <span className="right">{free && camera && <button type="button" className="quiet" style={{ padding: '3px 10px' }} onClick={() => setFree(false)}>Back to {camera.name}</button>}<span>Flip variant <kbd>,</kbd> <kbd>.</kbd></span></span>
      </header>
      <main className="place" style={{ display: 'grid', gridTemplateColumns: '228px minmax(0, 1fr) 268px', gridTemplateRows: 'minmax(0, 1fr) 152px' }}>
        <Tree index={scene.data} state={state} selected={selected} onSelect={(s) => put({ selected: s })} />
        <View sceneHash={project.revision.sceneHash} index={scene.data} state={state} camera={free ? undefined : camera} selected={selected} onSelect={(s) => put({ selected: s })} onMovedAway={() => setFree(true)} />
        <Inspector project={project} index={scene.data} state={state} selected={selected} destination={destination} edit={edit} onDiscard={(target, property) => writer.replace(destination.id, (old) => old.filter((c) => !(c.target === target && c.property === property)))} />
        <OptionStrip project={project} variant={variant} destination={destination} onDestination={(id) => put({ to: id })} />
        <PendingTray project={project} index={scene.data} destination={destination} pending={pending} elsewhere={elsewhere} writer={writer} onKeptAs={(id) => put({ to: `option:${id}` })} />
      </main>
      <RightPlace change={misplaced} from={destination} destinations={destinations} inVariant={variant.optionIds} onClose={() => setMisplaced(null)} onPick={(d) => { if (misplaced) writer.record(d.id, [misplaced]); put({ to: d.id }); setMisplaced(null); }} />
    </>
  );
}

/** An edit outside the destination's facet is not recorded silently: it asks where it belongs. */
function RightPlace({ change, from, destinations, inVariant, onClose, onPick }: { change: Change | null; from: Destination; destinations: readonly Destination[]; inVariant: readonly string[]; onClose: () => void; onPick: (d: Destination) => void }) {
  const property = change && propertyOf(change.property), facet = property?.facet, right = destinations.filter((d) => change && fits(change, d)).sort((a, b) => Number(inVariant.includes(b.id.slice(7))) - Number(inVariant.includes(a.id.slice(7))));
  const onKey = (e: KeyboardEvent) => { if (e.key === 'Escape') onClose(); };
  return (
    <Modal opened={change !== null} onClose={onClose} title={facet ? `${property.label} belongs to ${FACET_NAMES[facet]}` : ''} onKeyDown={onKey}>
      <p className="dim" style={{ marginTop: 0 }}>Edits go to {from.label}, which holds only {from.facet ? FACET_NAMES[from.facet] : ''}. Where should this one go?</p>
      <div style={{ display: 'grid', gap: 6 }}>{right.map((d) => <button type="button" key={d.id} className="quiet" onClick={() => onPick(d)}>{d.label}{inVariant.includes(d.id.slice(7)) && <span className="dim"> — in this variant</span>}</button>)}</div>
      <p className="dim">{plural(right.length, 'destination')} can hold it. To make a new option, choose the base, then keep the change as an option.</p>
    </Modal>
  );
}
