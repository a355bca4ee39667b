// What runs, what waits, what happened, and on which machines.
import { useQueryClient } from '@tanstack/react-query';
import type { QueueTrace, RenderNode, TraceStage, TraceState } from '@variscen/contract';
import { call, pathOf } from '../../api/client.ts';
import { useProgress } from '../../api/progress.ts';
import { keys, useQueue } from '../../api/queries.ts';
import { bytes, count, duration, plural, version } from '../../ui/format.ts';
import { StateMark } from '../../ui/glyphs.tsx';
import { sayError } from '../../ui/notify.ts';
import styles from './QueuePlace.module.css';

const MARKS = {
  waiting: 'waiting',
  rendering: 'rendering',
  done: 'current',
  failed: 'failed',
  undelivered: 'failed',
  cancelled: 'never',
} as const satisfies Record<TraceState, string>;
const WORDS: Readonly<Record<TraceState, string>> = {
  waiting: 'Waiting',
  rendering: 'Rendering',
  done: 'Done',
  failed: 'Failed',
  undelivered: 'Rendered, not stored',
  cancelled: 'Cancelled',
};
const STAGE_WORDS: Readonly<Record<TraceStage, string>> = {
  tracing: 'Rendering',
  writing: 'Writing files',
  delivering: 'Storing files',
};
const NODE_WORDS: Readonly<Record<RenderNode['state'], string>> = {
  idle: 'Ready',
  rendering: 'Rendering',
  gone: 'Offline',
};

export function QueuePlace() {
  const { data } = useQueue();
  const client = useQueryClient();
  const traces = data?.traces ?? [];
  const open = traces.filter((t) => t.state === 'waiting' || t.state === 'rendering');
  const past = traces.filter((t) => !open.includes(t));
  const running = open.filter((t) => t.state === 'rendering').length;
  const act = async (name: 'cancelTrace' | 'retryTrace', t: QueueTrace) => {
    try {
      await call(name, { params: { traceId: t.id } });
      await client.invalidateQueries({ queryKey: keys.queue });
    } catch (e) {
      sayError(e);
    }
  };
  return (
    <>
      <header className="sentence">
        {data &&
          (open.length ? (
            <>
              Rendering <b className="pick">{plural(running, 'trace')}</b>,{' '}
              <b className="pick">{count(open.length - running)} waiting</b>, of all projects.
            </>
          ) : (
            'Nothing is rendering and nothing waits.'
          ))}
      </header>
      <main className={`place ${styles.place}`}>
        <div className={styles.traces}>
          {data?.pausedFor && (
            <div className="notice" role="alert">
              Paused. {data.pausedFor}
            </div>
          )}
          {data && traces.length === 0 && (
            <div className="empty">
              <h1>The queue is empty</h1>
              <p>Select cells on the board and render them; they wait and run here.</p>
            </div>
          )}
          {open.length > 0 && (
            <Traces
              title="Active"
              rows={open}
              action={(t) => (
                <button type="button" className={`quiet ${styles.quiet}`} onClick={() => void act('cancelTrace', t)}>
                  Cancel
                </button>
              )}
            />
          )}
          {past.length > 0 && (
            <Traces
              title="Finished"
              rows={past}
              action={(t) =>
                t.state === 'done' ? null : (
                  <button type="button" className={`quiet ${styles.quiet}`} onClick={() => void act('retryTrace', t)}>
                    {t.state === 'undelivered' ? 'Deliver again' : 'Retry'}
                  </button>
                )
              }
            />
          )}
        </div>
        <aside className={styles.nodes}>
          <h4>Render nodes</h4>
          {data?.nodes.map((n) => (
            <div key={n.name} className={styles.box}>
              <div>{n.name}</div>
              <div className="dim">
                {NODE_WORDS[n.state]} · <span className="mono">{n.threads}</span>{' '}
                {n.threads === 1 ? 'thread' : 'threads'}
              </div>
            </div>
          ))}
          {data?.nodes.length === 0 && <p className="dim">No node has reported. Traces wait until one does.</p>}
        </aside>
      </main>
    </>
  );
}

function Traces({
  title,
  rows,
  action,
}: {
  title: string;
  rows: readonly QueueTrace[];
  action: (t: QueueTrace) => React.ReactNode;
}) {
  const live = useProgress((s) => s.traces);
  return (
    <section aria-label={title} className={styles.section}>
      <table className="rows">
        <thead>
          <tr>
            <th className={styles.title}>{title}</th>
            <th>Cell</th>
            <th>State</th>
            <th className="n">Samples</th>
            <th className="n">Render time</th>
            <th className="n">Memory</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {rows.map((t) => {
            const p = live[t.id];
            const now = t.state === 'rendering';
            const ended = t.state === 'done' ? 1 : 0;
            const fraction = now ? (p?.fraction ?? t.fraction) : ended;
            const done = now ? (p?.samplesDone ?? t.samplesDone) : t.samplesDone;
            const preview = p?.previewVersion ?? t.previewVersion;
            const stage = p?.stage ?? t.stage;
            const elapsed = t.startedAt ? (Date.now() - Date.parse(t.startedAt)) / 1000 : 0;
            const left = now && stage === 'tracing' && fraction > 0.03 ? (elapsed / fraction) * (1 - fraction) : null;
            return (
              <tr key={t.id}>
                <td>
                  {now && preview > 0 && (
                    <img
                      src={`${pathOf('tracePreview', { traceId: t.id })}?v=${preview}`}
                      alt="The picture so far"
                      className={styles.picture}
                    />
                  )}
                  {t.renderId !== null && (
                    <img
                      src={pathOf('renderFile', { renderId: t.renderId, kind: 'thumbnail' })}
                      alt={`${t.cells[0]?.cameraName ?? ''} in ${t.cells[0]?.variantName ?? ''}`}
                      loading="lazy"
                      className={styles.picture}
                    />
                  )}
                </td>
                <td>
                  <div>
                    {t.cells.map((c) => `${c.cameraName} in ${c.variantName}, ${version(c.version)}`).join(' · ')}
                  </div>
                  <div className="dim">
                    {t.projectName} · {t.profileName} ·{' '}
                    <span className="mono">
                      {t.widthPx} × {t.heightPx}
                    </span>
                  </div>
                  {t.error && <div className="notice">{t.error}</div>}
                </td>
                <td className={styles.now}>
                  <div className={styles.tracesNow}>
                    <StateMark status={MARKS[t.state]} fraction={fraction} />
                    {now ? STAGE_WORDS[stage] : WORDS[t.state]}
                    {now && stage === 'tracing' && (
                      <span className={`mono ${styles.fraction}`}>{Math.round(fraction * 100)} %</span>
                    )}
                  </div>
                  {now && (
                    <div className={`bar ${styles.bar}`}>
                      <i style={{ width: `${fraction * 100}%` }} />
                    </div>
                  )}
                  {t.attempts > 1 && <div className="dim">attempt {t.attempts}</div>}
                </td>
                <td className="n">
                  {count(done)} <span className="dim">/ {count(t.samples)}</span>
                </td>
                <td className="n">
                  {t.seconds !== null && duration(t.seconds)}
                  {t.seconds === null && left !== null && <span className="dim">about {duration(left)} left</span>}
                  {t.seconds === null && left === null && '—'}
                </td>
                <td className="n">
                  {t.peakBytes !== null ? (
                    <>
                      {bytes(t.peakBytes)} <span className="dim">peak</span>
                    </>
                  ) : (
                    <>
                      {bytes(t.plannedBytes)} <span className="dim">planned</span>
                    </>
                  )}
                </td>
                <td className={styles.action}>{action(t)}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}
