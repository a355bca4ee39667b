// The options of one facet, to make, choose as destination, rename and delete.
import { Menu, Modal, TextInput } from '@mantine/core';
import { useQueryClient } from '@tanstack/react-query';
import type { Option, Project, Variant } from '@variscen/contract';
import { FACET_NAMES, type Facet, PROPERTIES } from '@variscen/core/looks';
import { IconPhoto } from '@tabler/icons-react';
import { type ReactNode, useEffect, useState } from 'react';
import { call } from '../../api/client.ts';
import { keys } from '../../api/queries.ts';
import { plural } from '../../shared/format.ts';
import { FACETS, FacetGlyph, facetColor } from '../../shared/glyphs.tsx';
import { sayError } from '../../shared/notify.ts';
import { Buttons } from '../../shared/Buttons.tsx';
import { type Destination, pendingOf } from './edits.ts';

/** Facets that have a property yet. */
const USED: readonly Facet[] = FACETS.filter((f) => PROPERTIES.some((p) => p.facet === f));
type Dialog = { readonly kind: 'make' } | { readonly kind: 'rename' | 'delete'; readonly option: Option } | null;

export function OptionStrip({ project, variant, destination, onDestination, cameras }: { project: Project; variant: Variant; destination: Destination; onDestination: (id: string) => void; /** Shown instead of options. */ cameras: ReactNode }) {
  const [facet, setFacet] = useState<Facet>(destination.facet ?? 'lighting'), [strip, setStrip] = useState(false), [dialog, setDialog] = useState<Dialog>(null), [name, setName] = useState(''), client = useQueryClient(), options = project.options.filter((o) => o.facet === facet);
  useEffect(() => { if (destination.facet) setFacet(destination.facet); }, [destination.facet]);
  const run = async (work: () => Promise<unknown>) => { try { await work(); await client.invalidateQueries({ queryKey: keys.project(project.id) }); setDialog(null); } catch (e) { sayError(e); } };
  const make = () => run(async () => { const o = await call('createOption', { params: { projectId: project.id }, body: { facet, name } }); await client.invalidateQueries({ queryKey: keys.project(project.id) }); onDestination(`option:${o.id}`); });
  const users = (o: Option) => project.variants.filter((v) => v.optionIds.includes(o.id));
  return (
    <section aria-label="Options" style={{ gridColumn: '1 / 3', borderTop: '1px solid var(--line)', display: 'grid', gridTemplateColumns: '124px minmax(0, 1fr)', minWidth: 0 }}>
      <div role="tablist" aria-label="Facets" style={{ padding: '8px 0 0 14px' }}>
        {USED.map((f) => <button type="button" role="tab" aria-selected={f === facet && !strip} key={f} onClick={() => { setFacet(f); setStrip(false); }} style={{ ...facetColor(f), display: 'flex', gap: 7, alignItems: 'center', height: 19, width: '100%', color: f === facet && !strip ? 'var(--fc)' : 'var(--dim)', fontWeight: f === facet && !strip ? 500 : 400 }}><FacetGlyph facet={f} />{FACET_NAMES[f]}</button>)}
        <button type="button" role="tab" aria-selected={strip} onClick={() => setStrip(true)} style={{ display: 'flex', gap: 7, alignItems: 'center', height: 19, width: '100%', color: strip ? 'var(--ink)' : 'var(--dim)', fontWeight: strip ? 500 : 400 }}><IconPhoto size={12} stroke={1.6} />All cameras</button>
      </div>
      {strip ? cameras : <div style={{ display: 'flex', gap: 10, padding: '12px 8px', overflowX: 'auto', ...facetColor(facet) }}>
        <Card title="Base" note={plural(project.base.filter((c) => PROPERTIES.find((p) => p.id === c.property)?.facet === facet).length, 'value')} on={destination.id === 'base'} used onClick={() => onDestination('base')} />
        {options.map((o) => (
          <Card key={o.id} title={o.name} note={plural(o.changes.length, 'value')} pending={pendingOf(project, `option:${o.id}`).length} on={destination.id === `option:${o.id}`} used={variant.optionIds.includes(o.id)} onClick={() => onDestination(`option:${o.id}`)}
            menu={<><Menu.Item onClick={() => { setName(o.name); setDialog({ kind: 'rename', option: o }); }}>Rename…</Menu.Item><Menu.Item onClick={() => setDialog({ kind: 'delete', option: o })}>Delete…</Menu.Item></>} />
        ))}
        <button type="button" onClick={() => { setName(''); setDialog({ kind: 'make' }); }} style={{ width: 136, flex: 'none', border: '1px dashed #5a5a5a', display: 'grid', placeItems: 'center', color: 'var(--dim)', height: 96 }}>New option…</button>
      </div>}
      <Modal opened={dialog?.kind === 'make'} onClose={() => setDialog(null)} title={`New option of ${FACET_NAMES[facet]}`}><form onSubmit={(e) => { e.preventDefault(); void make(); }}><TextInput data-autofocus label="Name" value={name} onChange={(e) => setName(e.currentTarget.value)} maxLength={120} /><Buttons label="Make option" disabled={!name.trim()} onCancel={() => setDialog(null)} /></form></Modal>
      <Modal opened={dialog?.kind === 'rename'} onClose={() => setDialog(null)} title="Rename option">{dialog?.kind === 'rename' && <form onSubmit={(e) => { e.preventDefault(); void run(() => call('updateOption', { params: { projectId: project.id, optionId: dialog.option.id }, body: { name } })); }}><TextInput data-autofocus label="Name" value={name} onChange={(e) => setName(e.currentTarget.value)} maxLength={120} /><p className="dim">Variants that are named from it are renamed too.</p><Buttons label="Rename option" disabled={!name.trim()} onCancel={() => setDialog(null)} /></form>}</Modal>
      <Modal opened={dialog?.kind === 'delete'} onClose={() => setDialog(null)} title={dialog?.kind === 'delete' ? `Delete option “${dialog.option.name}”?` : ''}>
        {dialog?.kind === 'delete' && (users(dialog.option).length ? <><p>It is used by {plural(users(dialog.option).length, 'variant')}: {users(dialog.option).map((v) => v.name).join(', ')}. Take it out of them first.</p><Buttons label="Close" onCancel={() => setDialog(null)} onGo={() => setDialog(null)} /></> : <><p>Its {plural(dialog.option.changes.length, 'recorded value')} go with it. No variant uses it.</p><Buttons label="Delete option" onCancel={() => setDialog(null)} onGo={() => void run(async () => { if (destination.id === `option:${dialog.option.id}`) onDestination('base'); await call('deleteOption', { params: { projectId: project.id, optionId: dialog.option.id } }); })} /></>)}
      </Modal>
    </section>
  );
}

function Card({ title, note, on, used, pending = 0, onClick, menu }: { title: string; note: string; on: boolean; used: boolean; pending?: number; onClick: () => void; menu?: React.ReactNode }) {
  return (
    <div style={{ position: 'relative', width: 136, flex: 'none', height: 96, background: 'var(--raised)', outline: on ? '2px solid var(--fc)' : undefined, outlineOffset: 2 }}>
      <button type="button" onClick={onClick} aria-pressed={on} title={`Edits go to ${title}`} style={{ position: 'absolute', inset: 0, padding: '10px 12px', display: 'flex', flexDirection: 'column', color: used ? 'var(--ink)' : 'var(--dim)' }}>
        <b style={{ fontWeight: 500, lineHeight: 1.25 }}>{title}</b>
        <span style={{ marginTop: 'auto' }} className="dim">{used ? 'in this variant' : 'not in this variant'}</span>
        <span className="mono dim" style={{ fontSize: 11 }}>{note}{pending > 0 && <span style={{ color: 'var(--fc)' }}> +{pending}</span>}</span>
      </button>
      {menu && <Menu position="top-end"><Menu.Target><button type="button" aria-label={`More for ${title}`} style={{ position: 'absolute', right: 4, top: 4, width: 22, height: 22, textAlign: 'center', color: 'var(--dim)' }}>⋯</button></Menu.Target><Menu.Dropdown>{menu}</Menu.Dropdown></Menu>}
    </div>
  );
}
