// Batches with something to come: how far each is, and what can be done with the whole of it.
import { Menu } from '@mantine/core';
import type { QueueBatch } from '@variscen/contract';
import { count, duration } from '../../ui/format.ts';
import { PriorityItems } from './PriorityItems.tsx';
import type { QueueDoing } from './useQueueActions.ts';
import { Bar } from '../../ui/Bar.tsx';
import styles from './QueuePlace.module.css';

const WORDS = {
  rendering: 'rendering',
  waiting: 'waiting',
  paused: 'paused',
  done: 'done',
  failed: 'failed',
  cancelled: 'cancelled',
} as const satisfies Record<keyof QueueBatch['counts'], string>;

export function Batches({ batches, actions }: { batches: readonly QueueBatch[]; actions: QueueDoing }) {
  return (
    <section aria-label="Batches">
      <h4>Batches</h4>
      {batches.map((b) => (
        <Batch key={b.id} batch={b} actions={actions} />
      ))}
      {batches.length === 0 && <p className="dim">No batch has anything to come.</p>}
    </section>
  );
}

function Batch({ batch: b, actions }: { batch: QueueBatch; actions: QueueDoing }) {
  const all = Object.values(b.counts).reduce((n, x) => n + x, 0);
  const ended = b.counts.done + b.counts.failed + b.counts.cancelled;
  const told = (Object.keys(WORDS) as (keyof QueueBatch['counts'])[]).filter((state) => b.counts[state] > 0);
  const name = `${b.projectName}, ${b.profileName}`;
  return (
    <div className={styles.box} role="group" aria-label={name}>
      <div className={styles.batchName}>
        <span className="ellipsis">{name}</span>
        <Menu position="bottom-end">
          <Menu.Target>
            <button type="button" className="tool" aria-label={`More for the batch ${name}`}>
              ⋯
            </button>
          </Menu.Target>
          <Menu.Dropdown>
            {b.counts.waiting + b.counts.rendering > 0 && (
              <Menu.Item onClick={() => void actions.batch('pauseBatch', b.id)}>Pause batch</Menu.Item>
            )}
            {b.counts.paused > 0 && (
              <Menu.Item onClick={() => void actions.batch('resumeBatch', b.id)}>Resume batch</Menu.Item>
            )}
            <PriorityItems onSelect={(p) => void actions.prioritizeBatch(b.id, p)} />
            <Menu.Divider />
            <Menu.Item onClick={() => void actions.cancelBatch(b.id, true)}>
              Cancel {count(all - ended)} of this batch
            </Menu.Item>
          </Menu.Dropdown>
        </Menu>
      </div>
      <Bar fraction={ended / Math.max(1, all)} className={styles.bar} />
      <div className="dim">{told.map((state) => `${count(b.counts[state])} ${WORDS[state]}`).join(' · ')}</div>
      {b.leftS !== null && <div className="dim">about {duration(b.leftS)} to come</div>}
    </div>
  );
}
