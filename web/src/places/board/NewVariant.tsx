// Makes a variant of options; it is named from them.
import { Modal } from '@mantine/core';
import { useQueryClient } from '@tanstack/react-query';
import type { Project } from '@variscen/contract';
import { useState } from 'react';
import { call } from '../../api/client.ts';
import { keys } from '../../api/queries.ts';
import { sayError } from '../../ui/notify.ts';
import { Buttons } from '../../ui/Buttons.tsx';
import { CombineDialog } from './CombineDialog.tsx';
import { OptionPicker } from './OptionPicker.tsx';

export function NewVariant({ project }: { project: Project }) {
  const [open, setOpen] = useState(false);
  const [combining, setCombining] = useState(false);
  const [optionIds, setOptionIds] = useState<string[]>([]);
  const client = useQueryClient();
  const make = async () => {
    try {
      await call('createVariant', { params: { projectId: project.id }, body: { optionIds } });
      await client.invalidateQueries({ queryKey: keys.project(project.id) });
      await client.invalidateQueries({ queryKey: keys.board(project.id) });
      setOpen(false);
    } catch (e) {
      sayError(e);
    }
  };
  return (
    <div
      role="columnheader"
      style={{
        position: 'sticky',
        top: 0,
        background: 'var(--table)',
        zIndex: 2,
        display: 'flex',
        flexDirection: 'column',
        justifyContent: 'flex-end',
        gap: 5,
        paddingBottom: 4,
      }}
    >
      <button
        type="button"
        className="quiet"
        style={{ padding: '4px 10px', whiteSpace: 'nowrap' }}
        onClick={() => {
          setOptionIds([]);
          setOpen(true);
        }}
      >
        New variant…
      </button>
      <button
        type="button"
        className="quiet"
        style={{ padding: '4px 10px', whiteSpace: 'nowrap' }}
        onClick={() => setCombining(true)}
      >
        Combine…
      </button>
      {combining && <CombineDialog project={project} onClose={() => setCombining(false)} />}
      <Modal opened={open} onClose={() => setOpen(false)} title="New variant">
        <OptionPicker project={project} chosen={optionIds} onChange={setOptionIds} />
        <Buttons
          label="Make variant"
          disabled={optionIds.length === 0}
          onCancel={() => setOpen(false)}
          onGo={() => void make()}
        />
      </Modal>
    </div>
  );
}
