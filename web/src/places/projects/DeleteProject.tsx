// Asks before a project is deleted, and what becomes of the records of its renders.
import { Modal, Radio } from '@mantine/core';
import { useQueryClient } from '@tanstack/react-query';
import type { ProjectSummary } from '@variscen/contract';
import { useState } from 'react';
import { call } from '../../api/client.ts';
import { keys } from '../../api/queries.ts';
import { plural } from '../../ui/format.ts';
import { say, sayError } from '../../ui/notify.ts';
import styles from './ProjectsPlace.module.css';

type Records = 'keep' | 'drop';

export function DeleteProject({ project, onClose }: { project: ProjectSummary; onClose: () => void }) {
  const client = useQueryClient();
  const [records, setRecords] = useState<Records>('keep');
  const [isBusy, setBusy] = useState(false);
  const remove = async () => {
    setBusy(true);
    try {
      const { recordsPath } = await call('deleteProject', { params: { projectId: project.id }, query: { records } });
      if (localStorage.getItem('variscen.project') === project.id) localStorage.removeItem('variscen.project');
      say(
        `Project “${project.name}” is deleted`,
        recordsPath === null
          ? 'Its rendered files are still in the output folder.'
          : `Its rendered files are still in the output folder; ${recordsPath} says what each was made from.`,
      );
      await client.invalidateQueries({ queryKey: keys.projects });
    } catch (e) {
      sayError(e);
    } finally {
      onClose();
    }
  };
  const { cameras, variants, renders } = project;
  return (
    <Modal opened onClose={onClose} title={`Delete project “${project.name}”?`}>
      <p>
        {`Its ${plural(cameras, 'camera')}, ${plural(variants, 'variant')} and recorded looks go with it. Rendered files stay on disk.`}
      </p>
      {renders > 0 && (
        <Radio.Group
          value={records}
          onChange={(to) => setRecords(to as Records)}
          label={`What ${plural(renders, 'render')} ${renders === 1 ? 'was' : 'were'} made from`}
          className={styles.records}
        >
          <Radio size="xs" mt={8} value="keep" label="Keep as a file beside the pictures" />
          <Radio size="xs" mt={8} value="drop" label="Delete too" />
        </Radio.Group>
      )}
      <div className={styles.row}>
        <button type="button" className="quiet" onClick={onClose}>
          Leave it
        </button>
        <button type="button" className="go" disabled={isBusy} onClick={() => void remove()}>
          Delete project
        </button>
      </div>
    </Modal>
  );
}
