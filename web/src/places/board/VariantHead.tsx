// A column's head: the variant's name and the options that it is made of.
import { Menu, Modal, TextInput } from '@mantine/core';
import { useQueryClient } from '@tanstack/react-query';
import type { Project, Variant } from '@variscen/contract';
import { useState } from 'react';
import { call } from '../../api/client.ts';
import { keys } from '../../api/queries.ts';
import { plural } from '../../shared/format.ts';
import { sayError } from '../../shared/notify.ts';
import { Buttons } from '../../shared/Buttons.tsx';
import { OptionChips } from './OptionChips.tsx';
import { OptionPicker } from './OptionPicker.tsx';

type Open = 'rename' | 'options' | 'delete' | null;

export function VariantHead({ project, variant, onChoose }: { project: Project; variant: Variant; onChoose: (add: boolean) => void }) {
  const [open, setOpen] = useState<Open>(null), [name, setName] = useState(variant.name), [optionIds, setOptionIds] = useState(variant.optionIds), client = useQueryClient(), params = { projectId: project.id, variantId: variant.id };
  const run = async (work: () => Promise<unknown>) => { try { await work(); await client.invalidateQueries({ queryKey: keys.project(project.id) }); await client.invalidateQueries({ queryKey: keys.board(project.id) }); setOpen(null); } catch (e) { sayError(e); } };
  const show = (what: Open) => { setName(variant.name); setOptionIds(variant.optionIds); setOpen(what); };
  return (
    <div role="columnheader" style={{ position: 'sticky', top: 0, background: 'var(--table)', zIndex: 2, alignSelf: 'stretch', display: 'flex', flexDirection: 'column', justifyContent: 'flex-end', padding: '14px 0 4px', minWidth: 0 }}>
      <Menu position="bottom-start">
        <Menu.Target><button type="button" title={variant.name} aria-label={`Variant ${variant.name}`} style={{ fontWeight: 600, overflow: 'hidden', display: '-webkit-box', WebkitLineClamp: 2, WebkitBoxOrient: 'vertical', lineHeight: 1.25, marginBottom: 3 }}>{variant.name}</button></Menu.Target>
        <Menu.Dropdown>
          <Menu.Item onClick={() => onChoose(false)}>Choose the column</Menu.Item><Menu.Item onClick={() => onChoose(true)}>Add the column to what is chosen</Menu.Item><Menu.Item onClick={() => show('options')}>Change its options…</Menu.Item><Menu.Item onClick={() => show('rename')}>Rename…</Menu.Item><Menu.Item onClick={() => show('delete')}>Delete…</Menu.Item>
        </Menu.Dropdown>
      </Menu>
      <OptionChips project={project} optionIds={variant.optionIds} />
      <Modal opened={open === 'rename'} onClose={() => setOpen(null)} title="Rename variant"><form onSubmit={(e) => { e.preventDefault(); void run(() => call('updateVariant', { params, body: { name } })); }}><TextInput data-autofocus label="Name" value={name} onChange={(e) => setName(e.currentTarget.value)} maxLength={120} /><Buttons label="Rename variant" onCancel={() => setOpen(null)} /></form></Modal>
      <Modal opened={open === 'options'} onClose={() => setOpen(null)} title={`Options of “${variant.name}”`}><OptionPicker project={project} chosen={optionIds} onChange={setOptionIds} /><Buttons label={`Use ${plural(optionIds.length, 'option')}`} onCancel={() => setOpen(null)} onGo={() => void run(() => call('updateVariant', { params, body: { optionIds } }))} /></Modal>
      <Modal opened={open === 'delete'} onClose={() => setOpen(null)} title={`Delete variant “${variant.name}”?`}><p>Its column goes from the board. Its options stay, and rendered files stay on disk.</p><Buttons label="Delete variant" onCancel={() => setOpen(null)} onGo={() => void run(() => call('deleteVariant', { params }))} /></Modal>
    </div>
  );
}
