// The edits that are pending in the destination, one by one. There may be thousands: only rows on screen exist.
import { IconCheck, IconX } from '@tabler/icons-react';
import { useVirtualizer } from '@tanstack/react-virtual';
import type { Project } from '@variscen/contract';
import { type Change, type SceneIndex, changeText } from '@variscen/core/looks';
import { useRef } from 'react';
import type { Destination } from '../../../model/destinations.ts';
import type { ProjectSession } from '../../../session/projectSession.ts';
import { VirtualRows } from '../../../ui/VirtualRows.tsx';
import styles from './PendingTray.module.css';
import { PendingValue } from './PendingValue.tsx';

const ROW_PX = 24;

interface Props {
  project: Project;
  index: SceneIndex | undefined;
  destination: Destination;
  pending: readonly Change[];
  session: ProjectSession;
}
export function PendingRows({ project, index, destination, pending, session }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({
    count: pending.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW_PX,
    overscan: 6,
  });
  return (
    <div ref={box} className={styles.scroll}>
      <VirtualRows heightPx={list.getTotalSize()}>
        {list.getVirtualItems().map((item) => {
          const c = pending[item.index]!;
          const text = changeText(c, index);
          return (
            <div
              key={item.index}
              className={styles.pendingValueFrame}
              style={{ top: item.start, lineHeight: `${ROW_PX}px` }}
            >
              <span className="ellipsis" title={`${text} (${c.target})`}>
                {text}
              </span>
              <PendingValue project={project} index={index} destination={destination.id} change={c} />
              <button
                type="button"
                aria-label={`Keep ${text}`}
                title="Keep this one"
                onClick={() => void session.keep(destination.id, { only: [c] })}
                className={styles.keepThisOne}
              >
                <IconCheck size={13} />
              </button>
              <button
                type="button"
                aria-label={`Discard ${text}`}
                title="Discard this one"
                onClick={() => session.discard(destination.id, [c])}
                className={styles.keepThisOne}
              >
                <IconX size={13} />
              </button>
            </div>
          );
        })}
      </VirtualRows>
      {!pending.length && (
        <p className={`dim ${styles.whatYouChange}`}>What you change is captured here first, then kept or discarded.</p>
      )}
    </div>
  );
}
