// What renders, what waits, what has ended, in which batches and on which machines.
import { IconBell, IconPlayerPause, IconPlayerPlay, IconRefresh } from '@tabler/icons-react';
import type { Queue, QueueTrace } from '@variscen/contract';
import { useDeferredValue, useMemo, useState } from 'react';
import { Link } from 'react-router';
import { useOpenTraces, useQueue } from '../../api/queries.ts';
import { count, plural } from '../../ui/format.ts';
import { Batches } from './Batches.tsx';
import { EndedBatches } from './EndedBatches.tsx';
import { EndedTraces } from './EndedTraces.tsx';
import { NodeBox } from './NodeBox.tsx';
import { OpenTraces } from './OpenTraces.tsx';
import { TellDialog } from './TellDialog.tsx';
import { type QueueDoing, useQueueActions } from './useQueueActions.ts';
import styles from './QueuePlace.module.css';

const NONE: readonly QueueTrace[] = [];

export function QueuePlace() {
  const { data } = useQueue();
  const actions = useQueueActions();
  const pages = useOpenTraces();
  const loaded = useMemo(() => pages.data?.pages.flat() ?? NONE, [pages.data]);
  // many rows are drawn in pieces, between which the page answers
  const open = useDeferredValue(loaded, NONE);
  const total = data ? data.counts.rendering + data.counts.waiting + data.counts.paused : 0;
  return (
    <>
      <header className="sentence">{data && <Sentence queue={data} />}</header>
      <main className={`place ${styles.place}`}>
        <div className={styles.traces}>
          {data && <Tools queue={data} actions={actions} />}
          {data?.pausedFor && (
            <div className="notice" role="alert">
              Paused. {data.pausedFor}
            </div>
          )}
          {data?.traces.length === 0 && (
            <div className="empty">
              <h1>The queue is empty</h1>
              <p>Select cells on the board and render them; they wait and run here.</p>
            </div>
          )}
          {open.length > 0 && (
            <OpenTraces traces={open} total={total} onMore={() => void pages.fetchNextPage()} actions={actions} />
          )}
          <EndedTraces actions={actions} />
        </div>
        <aside className={styles.nodes}>
          {data && <Batches batches={data.batches} actions={actions} />}
          <EndedBatches />
          <h4>Machines</h4>
          {data?.nodes.map((n) => (
            <NodeBox key={n.name} node={n} actions={actions} />
          ))}
          {data?.nodes.length === 0 && <p className="dim">No machine has reported. Traces wait until one does.</p>}
          <Link className={styles.ended} to="/queue/machines">
            What they do, and adding one
          </Link>
        </aside>
      </main>
    </>
  );
}

function Sentence({ queue: { counts, isHeld } }: { queue: Queue }) {
  const total = counts.rendering + counts.waiting + counts.paused;
  if (total === 0) return 'Nothing is rendering and nothing waits.';
  const paused = counts.paused > 0 && `, ${count(counts.paused)} paused`;
  return (
    <>
      {isHeld ? 'The queue is paused. ' : ''}Rendering <b className="pick">{plural(counts.rendering, 'trace')}</b>,{' '}
      <b className="pick">{count(counts.waiting)} waiting</b>
      {paused}, of all projects.
    </>
  );
}

function Tools({ queue, actions }: { queue: Queue; actions: QueueDoing }) {
  const { counts, isHeld } = queue;
  const [isTelling, setTelling] = useState(false);
  const hasMore = counts.rendering + counts.waiting + counts.paused > 0;
  return (
    <div className={styles.tools}>
      {(hasMore || isHeld) && (
        <button type="button" className={`quiet ${styles.tool}`} onClick={() => void actions.hold(!isHeld)}>
          {isHeld ? <IconPlayerPlay size={14} stroke={1.6} /> : <IconPlayerPause size={14} stroke={1.6} />}
          {isHeld ? 'Resume the queue' : 'Pause the queue'}
        </button>
      )}
      {counts.failed > 0 && (
        <button type="button" className={`quiet ${styles.tool}`} onClick={() => void actions.retryFailed()}>
          <IconRefresh size={14} stroke={1.6} />
          Retry {count(counts.failed)} failed
        </button>
      )}
      <button type="button" className={`quiet ${styles.tool}`} onClick={() => setTelling(true)}>
        <IconBell size={14} stroke={1.6} />
        When a batch ends…
      </button>
      {isTelling && <TellDialog onClose={() => setTelling(false)} />}
    </div>
  );
}
