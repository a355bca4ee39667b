// What was done in a project lately: edits, renders, deliveries, cleaning up.
import { Drawer } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import type { Lately, ProjectSummary } from '@variscen/contract';
import dayjs from 'dayjs';
import { useState } from 'react';
import { call } from '../../api/client.ts';
import { type LatelyLine, latelyDays } from '../../model/latelyDays.ts';
import { plural } from '../../ui/format.ts';
import styles from './LatelyPanel.module.css';

export function LatelyPanel({ project, onClose }: { project: ProjectSummary; onClose: () => void }) {
  const { data, error } = useQuery({
    queryKey: ['lately', project.id],
    staleTime: 0,
    queryFn: ({ signal }) => call('lately', { params: { projectId: project.id }, signal }),
  });
  return (
    <Drawer opened onClose={onClose} position="right" size={400} title={`Lately in “${project.name}”`}>
      {error && <p className="notice">{error.message}</p>}
      {data?.length === 0 && <p className="dim">Nothing was done yet.</p>}
      {latelyDays(data ?? [], new Date()).map((day) => (
        <section key={day.name} aria-label={day.name} className={styles.day}>
          <h4>{day.name}</h4>
          <ul className={styles.lines}>
            {day.lines.map((line, i) => (
              <Line key={i} line={line} />
            ))}
          </ul>
        </section>
      ))}
    </Drawer>
  );
}

function Line({ line }: { line: LatelyLine }) {
  const [isOpen, setOpen] = useState(false);
  if (line.kind === 'done') return <Done done={line.done} />;
  if (isOpen) return line.edits.map((done, i) => <Done key={i} done={done} />);
  return (
    <li>
      <button type="button" className={`dim ${styles.more}`} onClick={() => setOpen(true)}>
        {plural(line.edits.length, 'more edit')}
      </button>
    </li>
  );
}

function Done({ done: { kind, at, text, isUndone } }: { done: Lately }) {
  return (
    <li className={styles.line} data-kind={kind} data-undone={isUndone}>
      <span className="mono faint">{dayjs(at).format('HH:mm')}</span>
      <span>
        {text}
        {isUndone && <span className="sr">, undone</span>}
      </span>
    </li>
  );
}
