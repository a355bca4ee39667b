// Makes a variant of options; it is named from them.
import { Checkbox, Modal } from '@mantine/core';
import { useQueryClient } from '@tanstack/react-query';
import type { Project } from '@variscen/contract';
import { useState } from 'react';
import { call } from '../../api/client.ts';
import { keys } from '../../api/queries.ts';
import { FACETS, FacetGlyph, facetColor, facetName } from '../../shared/glyphs.tsx';
import { sayError } from '../../shared/notify.ts';
import { Buttons } from './VariantHead.tsx';

export function NewVariant({ project }: { project: Project }) {
  const [open, setOpen] = useState(false), [optionIds, setOptionIds] = useState<string[]>([]), client = useQueryClient();
  const make = async () => { try { await call('createVariant', { params: { projectId: project.id }, body: { optionIds } }); await client.invalidateQueries({ queryKey: keys.project(project.id) }); await client.invalidateQueries({ queryKey: keys.board(project.id) }); setOpen(false); } catch (e) { sayError(e); } };
  return (
    <div style={{ position: 'sticky', top: 0, background: 'var(--table)', zIndex: 2, display: 'flex', alignItems: 'flex-end', paddingBottom: 4 }}>
      <button type="button" className="quiet" style={{ padding: '4px 10px' }} onClick={() => { setOptionIds([]); setOpen(true); }}>New variant…</button>
      <Modal opened={open} onClose={() => setOpen(false)} title="New variant"><OptionPicker project={project} chosen={optionIds} onChange={setOptionIds} /><Buttons label="Make variant" disabled={optionIds.length === 0} onCancel={() => setOpen(false)} onGo={() => void make()} /></Modal>
    </div>
  );
}

export function OptionPicker({ project, chosen, onChange }: { project: Project; chosen: readonly string[]; onChange: (ids: string[]) => void }) {
  if (project.options.length === 0) return <p className="dim">There are no options yet. Record one on the stage first.</p>;
  return (
    <>
      <p className="dim" style={{ marginTop: 0 }}>Where two options of one facet set the same value, the later one wins.</p>
      {FACETS.filter((f) => project.options.some((o) => o.facet === f)).map((f) => (
        <fieldset key={f} style={{ border: 0, padding: 0, margin: '0 0 10px' }}>
          <legend className="chip" style={{ ...facetColor(f), padding: 0, marginBottom: 4 }}><FacetGlyph facet={f} />{facetName(f)}</legend>
          {project.options.filter((o) => o.facet === f).map((o) => <Checkbox key={o.id} size="xs" mb={4} label={o.name} checked={chosen.includes(o.id)} onChange={(e) => onChange(e.currentTarget.checked ? [...chosen, o.id] : chosen.filter((x) => x !== o.id))} />)}
        </fieldset>
      ))}
    </>
  );
}
