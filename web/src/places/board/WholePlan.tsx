// The whole plan in one table, in the board's order: a line a trace, which opens to show its memory by kind, its files and
// what it leaves out.
import { IconChevronDown, IconChevronRight } from '@tabler/icons-react';
import { useVirtualizer } from '@tanstack/react-virtual';
import type { Plan, Project } from '@variscen/contract';
import { useState } from 'react';
import { MEMORY_KINDS, MEMORY_WORDS, SOURCE_WORDS, figuresOf, isRough, wholeBytes } from '../../model/planFigures.ts';
import { bytes, count, duration, plural } from '../../ui/format.ts';
import styles from './WholePlan.module.css';

type PlannedTrace = Plan['traces'][number];
const ROW_PX = 30;
const DASH = '–';

export function WholePlan({ plan, project }: { plan: Plan; project: Project }) {
  const [box, setBox] = useState<HTMLDivElement | null>(null);
  const [flipped, setFlipped] = useState<ReadonlySet<string>>(new Set());
  // the only one is open until it is closed, others are closed until they are opened
  const isOpen = (hash: string) => flipped.has(hash) !== (plan.traces.length === 1);
  const list = useVirtualizer({
    count: plan.traces.length,
    getScrollElement: () => box,
    getItemKey: (i) => plan.traces[i]!.hash,
    estimateSize: () => ROW_PX,
    overscan: 10,
  });
  const flip = (hash: string) =>
    setFlipped((now) => {
      const next = new Set(now);
      if (!next.delete(hash)) next.add(hash);
      return next;
    });
  return (
    <>
      <Totals plan={plan} />
      <div role="table" aria-label="Traces of the plan" aria-rowcount={plan.traces.length + 1}>
        <div role="row" className={`dim ${styles.columns} ${styles.head}`}>
          <span role="columnheader">Cells</span>
          <span role="columnheader">Frame</span>
          <span role="columnheader">Samples</span>
          <span role="columnheader">Render time</span>
          <span role="columnheader">Engine</span>
          <span role="columnheader">Process</span>
          <span role="columnheader">Memory</span>
          <span role="columnheader">Left out</span>
        </div>
        <div ref={setBox} className={styles.traces}>
          <div className={styles.rows} style={{ height: list.getTotalSize() }}>
            {list.getVirtualItems().map(({ index, start, key }) => {
              const t = plan.traces[index]!;
              return (
                <div
                  key={key}
                  ref={list.measureElement}
                  data-index={index}
                  className={styles.trace}
                  style={{ top: start }}
                >
                  <TraceLine
                    trace={t}
                    name={namesOf(project, t)}
                    index={index}
                    isOpen={isOpen(t.hash)}
                    onFlip={() => flip(t.hash)}
                  />
                  {isOpen(t.hash) && <TraceDetails trace={t} />}
                </div>
              );
            })}
          </div>
        </div>
      </div>
    </>
  );
}

function Totals({ plan }: { plan: Plan }) {
  const f = figuresOf(plan);
  const cells = plan.traces.reduce((n, t) => n + t.cells.length, 0);
  const words = [
    `${plural(cells, 'cell')} from ${plural(plan.traces.length, 'trace')}`,
    f.expectedS === null ? 'render time not measured yet' : `about ${duration(f.expectedS)} in all`,
    `${bytes(f.mostBytes)} at most at a time${f.isWhole ? '' : ', and the process, which is not measured yet'}`,
  ];
  return <p className={styles.totals}>{words.join(' · ')}</p>;
}

function namesOf(project: Project, { cells }: PlannedTrace): string {
  const nameOf = (c: PlannedTrace['cells'][number]) => {
    const camera = project.cameras.find((x) => x.id === c.cameraId)?.name ?? '';
    const variant = project.variants.find((x) => x.id === c.variantId)?.name ?? '';
    return `${camera} in ${variant}`;
  };
  return cells.map(nameOf).join(' · ');
}

interface LineProps {
  trace: PlannedTrace;
  name: string;
  index: number;
  isOpen: boolean;
  onFlip: () => void;
}
function TraceLine({ trace: t, name, index, isOpen, onFlip }: LineProps) {
  return (
    <div role="row" aria-rowindex={index + 2} className={styles.columns}>
      <span role="cell" className={styles.name}>
        <button
          type="button"
          aria-expanded={isOpen}
          className={`ellipsis ${styles.open}`}
          title={name}
          onClick={onFlip}
        >
          {isOpen ? <IconChevronDown size={13} /> : <IconChevronRight size={13} />}
          <span className="ellipsis">{name}</span>
        </button>
      </span>
      <Number>
        {t.widthPx} × {t.heightPx}
      </Number>
      <Number>{count(t.samples)}</Number>
      <Number title={t.expectedFrom === null ? 'Nothing was rendered yet' : SOURCE_WORDS[t.expectedFrom]}>
        {t.expectedS === null ? DASH : `${isRough(t) ? '≈ ' : ''}${duration(t.expectedS)}`}
      </Number>
      <Number title={`${count(t.totalBytes)} bytes`}>{bytes(t.totalBytes)}</Number>
      <Number>{t.processBytes === null ? DASH : bytes(t.processBytes)}</Number>
      <Number title={`${count(wholeBytes(t))} bytes`}>{bytes(wholeBytes(t))}</Number>
      <Number>{t.droppedCount ? count(t.droppedCount) : DASH}</Number>
    </div>
  );
}
function Number({ title, children }: { title?: string; children: React.ReactNode }) {
  return (
    <span role="cell" className={`mono ${styles.number}`} title={title}>
      {children}
    </span>
  );
}

function TraceDetails({ trace: t }: { trace: PlannedTrace }) {
  return (
    <div className={styles.details}>
      <div className={styles.memory}>
        {MEMORY_KINDS.map((k) => (
          <MemoryLine
            key={k}
            word={MEMORY_WORDS[k]}
            taken={t.bytes[k]}
            without={t.culls ? t.bytesWithoutCulling[k] : null}
          />
        ))}
        {t.processBytes !== null && <MemoryLine word="The process itself" taken={t.processBytes} without={null} />}
        {t.culls && <MemoryLine word="Engine, without culling" taken={t.totalBytesWithoutCulling} without={null} />}
      </div>
      <div>
        <div>{plural(t.objects, 'object')}</div>
        <div className={`mono dim ${styles.files}`}>
          {t.cells
            .flatMap((c) => c.files)
            .map((f) => (
              <div key={f}>{f}</div>
            ))}
        </div>
        {t.droppedCount > 0 && <Dropped trace={t} />}
      </div>
    </div>
  );
}
function MemoryLine({ word, taken, without }: { word: string; taken: number; without: number | null }) {
  return (
    <>
      <span className="dim">{word}</span>
      <span className={`mono ${styles.number}`} title={`${count(taken)} bytes`}>
        {bytes(taken)}
      </span>
      <span className={`mono faint ${styles.number}`}>{without !== null && without !== taken && bytes(without)}</span>
    </>
  );
}
function Dropped({ trace: { dropped, droppedCount } }: { trace: PlannedTrace }) {
  return (
    <details>
      <summary className="dim">{plural(droppedCount, 'object')} left out</summary>
      <div className={`dim ${styles.dropped}`}>
        {dropped.map((d) => (
          <div key={d} className="ellipsis" title={d}>
            {d}
          </div>
        ))}
        {droppedCount > dropped.length && <div>and {count(droppedCount - dropped.length)} more</div>}
      </div>
    </details>
  );
}
