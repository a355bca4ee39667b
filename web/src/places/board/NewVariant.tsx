// Makes a variant of options; it is named from them.
import { Modal } from '@mantine/core';
import type { Project } from '@variscen/contract';
import { useState } from 'react';
import { call } from '../../api/client.ts';
import { useSession } from '../../session/projectSession.ts';
import { Buttons } from '../../ui/Buttons.tsx';
import { CombineDialog } from './CombineDialog.tsx';
import { OptionPicker } from './OptionPicker.tsx';
import styles from './NewVariant.module.css';

export function NewVariant({ project }: { project: Project }) {
  const [open, setOpen] = useState(false);
  const [combining, setCombining] = useState(false);
  const [optionIds, setOptionIds] = useState<string[]>([]);
  const session = useSession(project.id);
  const make = async () => {
    const made = await session.write(() =>
      call('createVariant', { params: { projectId: project.id }, body: { optionIds } }),
    );
    if (!made) return;
    await session.readAgain();
    setOpen(false);
  };
  return (
    <div role="columnheader" className={styles.columnheader}>
      <button
        type="button"
        className={`quiet ${styles.quiet}`}
        onClick={() => {
          setOptionIds([]);
          setOpen(true);
        }}
      >
        New variant…
      </button>
      <button type="button" className={`quiet ${styles.quiet}`} onClick={() => setCombining(true)}>
        Combine…
      </button>
      {combining && <CombineDialog project={project} onClose={() => setCombining(false)} />}
      <Modal opened={open} onClose={() => setOpen(false)} title="New variant">
        <OptionPicker project={project} selected={optionIds} onChange={setOptionIds} />
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
