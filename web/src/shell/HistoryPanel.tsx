// Every edit of the project that can be undone or redone, in words; a click goes to how things were after it.
import { Drawer } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import dayjs from 'dayjs';
import { useState } from 'react';
import { call } from '../api/client.ts';
import { useSession } from '../session/projectSession.ts';
import { plural } from '../ui/format.ts';
import { say } from '../ui/notify.ts';
import styles from './HistoryPanel.module.css';

export function HistoryPanel({
  projectId,
  last,
  onClose,
}: {
  projectId: string;
  /** Asked again when it changes. */
  last: string;
  onClose: () => void;
}) {
  const session = useSession(projectId);
  const steps = useQuery({
    queryKey: ['history', projectId, last],
    queryFn: () => call('history', { params: { projectId } }),
    placeholderData: (old) => old,
    staleTime: 0,
  });
  const [busy, setBusy] = useState(false);
  const all = steps.data ?? [];
  const top = all.findIndex((s) => s.state === 'done');
  const go = async (stepId: string, count: number, back: boolean) => {
    setBusy(true);
    const done = await session.goToStep(stepId);
    setBusy(false);
    if (done) say(`${plural(count, 'edit')} ${back ? 'undone' : 'redone'}`);
  };
  const titleOf = (undone: boolean, here: boolean) => {
    if (here) return 'How things are now';
    return undone ? 'Redo up to here' : 'Undo all that came after';
  };
  const row = (id: string, label: string, at: string | null, i: number, undone: boolean, here: boolean) => (
    <button
      type="button"
      key={id}
      disabled={busy || here}
      aria-current={here ? 'step' : undefined}
      onClick={() => void go(id, Math.abs(i - Math.max(0, top)) || all.length, i > top)}
      title={titleOf(undone, here)}
      className={styles.button}
      data-undone={undone}
      data-here={here}
    >
      <i aria-hidden className={styles.mark} />
      <span className="ellipsis">
        {label}
        {undone && <span className="sr">, undone</span>}
      </span>
      <span className={`mono faint ${styles.isSame}`}>
        {at && (dayjs(at).isSame(dayjs(), 'day') ? dayjs(at).format('HH:mm') : dayjs(at).format('D MMM HH:mm'))}
      </span>
    </button>
  );
  return (
    <Drawer
      opened
      onClose={onClose}
      title="History"
      position="left"
      size={340}
      withOverlay={false}
      lockScroll={false}
      trapFocus={false}
      aria-modal={false}
      styles={{
        inner: { left: 64 },
        body: { padding: '0 12px 20px' },
        content: { background: 'var(--table)', borderRight: '1px solid var(--line)' },
        header: { background: 'var(--table)' },
      }}
    >
      <p className={`dim ${styles.theNewestFirst}`}>The newest first. Renders are not touched.</p>
      <div role="list" aria-label="Edits">
        {all.map((s, i) => row(s.id, s.label, s.at, i, s.state === 'undone', i === top))}
        {all.length > 0 && row('0', 'Before all of these', null, all.length, false, top === -1)}
      </div>
      {steps.data?.length === 0 && <p className="dim">Nothing was edited yet.</p>}
    </Drawer>
  );
}
