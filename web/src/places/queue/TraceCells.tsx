// The columns of a trace, the same whether it is to come or has ended.
import { IconPlayerPause } from '@tabler/icons-react';
import type { QueueTrace } from '@variscen/contract';
import { pathOf } from '../../api/client.ts';
import { type TraceProgress, useProgress } from '../../api/progress.ts';
import { framesText } from '../../model/sequences.ts';
import { bytes, count, duration, percent, plural, version } from '../../ui/format.ts';
import { StateMark } from '../../ui/glyphs.tsx';
import { MARKS, STAGE_WORDS, STATE_WORDS } from './words.ts';
import { Bar } from '../../ui/Bar.tsx';
import styles from './QueuePlace.module.css';

/** Of a sequence, the frames that stand in one row. */
const framesOf = (t: QueueTrace): readonly number[] => t.framesAlike ?? (t.frame === null ? [] : [t.frame]);
/** Of a trace that serves many cells. */
const CELLS_NAMED = 3;
export const nameOf = (t: QueueTrace): string => {
  const names = t.cells.slice(0, CELLS_NAMED).map((c) => `${c.cameraName} in ${c.variantName}, ${version(c.version)}`);
  const more = t.cellCount - names.length;
  const cells = names.join(' · ') + (more > 0 ? ` and ${plural(more, 'more cell')}` : '');
  return [cells, framesText(framesOf(t))].filter(Boolean).join(', ');
};

/** @param role of each column, where the traces are rows of a grid */
export function TraceCells({ trace: t, role }: { trace: QueueTrace; role?: 'gridcell' }) {
  const live = useProgress((s) => s.traces[t.id]);
  const now = t.state === 'rendering' ? live : undefined;
  return (
    <>
      <div role={role} className={styles.picture}>
        <Picture trace={t} previewVersion={now?.previewVersion ?? t.previewVersion} />
      </div>
      <div role={role} className={styles.what}>
        <div className={styles.cellName}>{nameOf(t)}</div>
        <div className="dim">
          {t.projectName} · {t.profileName} ·{' '}
          <span className="mono">
            {t.widthPx} × {t.heightPx}
          </span>
          {t.priority !== 'normal' && <span className={styles.priority}> · {t.priority} priority</span>}
        </div>
        {t.error && <div className="notice">{t.error}</div>}
      </div>
      <div role={role} className={styles.now}>
        <State trace={t} now={now} />
      </div>
      <Figures trace={t} now={now} role={role} />
    </>
  );
}

function Picture({ trace: t, previewVersion }: { trace: QueueTrace; previewVersion: number }) {
  if (t.renderId !== null)
    return (
      <img
        src={pathOf('renderFile', { renderId: t.renderId, kind: 'thumbnail' })}
        alt={`${t.cells[0]?.cameraName ?? ''} in ${t.cells[0]?.variantName ?? ''}`}
        loading="lazy"
      />
    );
  if (t.state !== 'rendering' || previewVersion === 0) return null;
  const src = `${pathOf('tracePreview', { traceId: t.id })}?v=${previewVersion}`;
  return <img src={src} alt="The picture so far" />;
}

function State({ trace: t, now }: { trace: QueueTrace; now: TraceProgress | undefined }) {
  const isRendering = t.state === 'rendering';
  const stage = now?.stage ?? t.stage;
  const ended = t.state === 'done' ? 1 : 0;
  const isOpen = isRendering || t.state === 'paused' || t.state === 'waiting';
  const fraction = isOpen ? (now?.fraction ?? t.fraction) : ended;
  const shown = isOpen && fraction > 0;
  return (
    <>
      <div className={styles.tracesNow}>
        {t.state === 'paused' ? (
          <IconPlayerPause size={13} stroke={1.8} aria-hidden />
        ) : (
          <StateMark status={MARKS[t.state]} fraction={fraction} />
        )}
        {isRendering ? STAGE_WORDS[stage] : STATE_WORDS[t.state]}
        {shown && stage === 'tracing' && (
          <span className={`mono ${styles.fraction}`}>{Math.floor(fraction * 100)} %</span>
        )}
      </div>
      {shown && t.slices.length === 0 && <Bar fraction={fraction} className={styles.bar} />}
      {t.slices.length > 0 && <Slices slices={t.slices} />}
      {t.attempts > 1 && <div className="dim">attempt {t.attempts}</div>}
    </>
  );
}

const SLICE_WORDS = { waiting: 'waits', rendering: 'renders', done: 'done' } as const;
/** The picture's slices from top to bottom, left to right. */
function Slices({ slices }: { slices: QueueTrace['slices'] }) {
  const done = slices.filter((s) => s.state === 'done').length;
  const nodes = new Set(slices.filter((s) => s.state === 'rendering').map((s) => s.nodeName));
  return (
    <>
      <div className={styles.slices} role="img" aria-label={`${done} of ${slices.length} slices are done`}>
        {slices.map((s) => (
          <i
            key={s.fromRow}
            data-state={s.state}
            style={{ flexGrow: s.toRow - s.fromRow }}
            title={`Slice ${SLICE_WORDS[s.state]}${s.nodeName ? `, ${s.nodeName}` : ''}${s.seconds === null ? '' : `, ${duration(s.seconds)}`}`}
          />
        ))}
      </div>
      <div className="dim">
        <span className="mono">
          {done} / {slices.length}
        </span>{' '}
        slices{nodes.size > 1 && ` · ${[...nodes].join(', ')}`}
      </div>
    </>
  );
}

function Figures({
  trace: t,
  now,
  role,
}: {
  trace: QueueTrace;
  now: TraceProgress | undefined;
  role: 'gridcell' | undefined;
}) {
  const done = now?.samplesDone ?? t.samplesDone;
  const perS = now?.perS ?? null;
  const noise = now ? now.noise : t.noise;
  const isTracing = t.state === 'rendering' && (now?.stage ?? t.stage) === 'tracing';
  const left = isTracing && perS && now ? (1 - now.fraction) / perS : null;
  const pixels = t.widthPx * t.heightPx;
  return (
    <>
      <div role={role} className={styles.figure}>
        {t.state === 'done' || isTracing ? count(done) : '—'} <span className="dim">/ {count(t.samples)}</span>
        {isTracing && noise !== null && <div className="dim">noise {percent(noise)}</div>}
        {isTracing && perS !== null && (
          <div className="dim">{count(Math.round((perS * pixels * t.samples) / 1000))} k paths/s</div>
        )}
      </div>
      <div role={role} className={styles.figure}>
        <RenderTime trace={t} leftS={left} />
      </div>
      <div role={role} className={styles.figure}>
        {bytes(t.peakBytes ?? t.plannedBytes)}
        <div className="dim">{t.peakBytes === null ? 'planned' : 'peak'}</div>
      </div>
    </>
  );
}

function RenderTime({ trace: t, leftS }: { trace: QueueTrace; leftS: number | null }) {
  if (t.seconds !== null)
    return (
      <>
        {duration(t.seconds)}
        {t.expectedS !== null && <div className="dim">expected {duration(t.expectedS)}</div>}
      </>
    );
  const about = leftS ?? t.expectedS;
  if (about === null) return '—';
  return (
    <>
      {duration(about)}
      <div className="dim">{leftS === null ? 'expected' : 'left, about'}</div>
    </>
  );
}

/** Says what the columns are. */
export const TraceHead = ({ title, children }: { title: string; children?: React.ReactNode }) => (
  <div className={styles.head}>
    <h2 className={styles.title}>{title}</h2>
    {children}
    <span className={styles.figure}>Samples</span>
    <span className={styles.figure}>Render time</span>
    <span className={styles.figure}>Memory</span>
  </div>
);
