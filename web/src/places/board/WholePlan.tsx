// The whole plan in one table, in the board's order: a line a trace, which opens to show its memory by kind, its files
// and what it leaves out.
import { IconChevronDown, IconChevronRight } from '@tabler/icons-react';
import { useVirtualizer } from '@tanstack/react-virtual';
import type { Plan, Project } from '@variscen/contract';
import { useMemo, useState } from 'react';
import { MEMORY_KINDS, MEMORY_WORDS, SOURCE_WORDS, figuresOf, isRough, wholeBytes } from '../../model/planFigures.ts';
import { type Line, framesText, linesOf } from '../../model/sequences.ts';
import { bytes, count, duration, plural } from '../../ui/format.ts';
import { VirtualRows } from '../../ui/VirtualRows.tsx';
import styles from './WholePlan.module.css';

type PlannedTrace = Plan['traces'][number];
type PlannedLine = Line<PlannedTrace>;
const ROW_PX = 30;
const DASH = '–';

export function WholePlan({ plan, project }: { plan: Plan; project: Project }) {
  const [box, setBox] = useState<HTMLDivElement | null>(null);
  const [flipped, setFlipped] = useState<ReadonlySet<string>>(new Set());
  // the only one is open until it is closed, others are closed until they are opened
  const lines = useMemo(() => linesOf(plan.traces, sequenceOf, (t) => t.hash), [plan]);
  const isOpen = (hash: string) => flipped.has(hash) !== (lines.length === 1);
  const list = useVirtualizer({
    count: lines.length,
    getScrollElement: () => box,
    getItemKey: (i) => lines[i]!.key,
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
      <div role="table" aria-label="Traces of the plan" aria-rowcount={lines.length + 1}>
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
          <VirtualRows heightPx={list.getTotalSize()}>
            {list.getVirtualItems().map(({ index, start, key }) => {
              const line = lines[index]!;
              return (
                <div
                  key={key}
                  ref={list.measureElement}
                  data-index={index}
                  className={styles.trace}
                  style={{ top: start }}
                >
                  <TraceLine
                    line={line}
                    name={namesOf(project, line)}
                    index={index}
                    isOpen={isOpen(line.key)}
                    onFlip={() => flip(line.key)}
                  />
                  {isOpen(line.key) && <TraceDetails line={line} />}
                </div>
              );
            })}
          </VirtualRows>
        </div>
      </div>
    </>
  );
}

function Totals({ plan }: { plan: Plan }) {
  const f = figuresOf(plan);
  const cells = plan.traces.reduce((n, t) => n + t.cells.length, 0);
  const words = [
    `${plural(cells, plan.traces.some((t) => t.cells[0]!.frame !== null) ? 'picture' : 'cell')} from ${plural(plan.traces.length, 'trace')}`,
    f.expectedS === null ? 'render time not measured yet' : `about ${duration(f.expectedS)} in all`,
    `${bytes(f.mostBytes)} at most at a time${f.isWhole ? '' : ', and the process, which is not measured yet'}`,
  ];
  return <p className={styles.totals}>{words.join(' · ')}</p>;
}

const sequenceOf = ({ cells }: PlannedTrace): string | null =>
  cells[0]!.frame === null ? null : cells.map((c) => `${c.cameraId} ${c.variantId}`).join();
/** The one that takes most memory stands for all. */
const largest = ({ traces }: PlannedLine): PlannedTrace =>
  traces.reduce((a, b) => (wholeBytes(b) > wholeBytes(a) ? b : a));

function namesOf(project: Project, { traces }: PlannedLine): string {
  const { cells } = traces[0]!;
  const frames = traces.flatMap((t) => t.cells[0]!.frame ?? []);
  const nameOf = (c: PlannedTrace['cells'][number]) => {
    const camera = project.cameras.find((x) => x.id === c.cameraId)?.name ?? '';
    const variant = project.variants.find((x) => x.id === c.variantId)?.name ?? '';
    return `${camera} in ${variant}`;
  };
  const served = cells.length > 1 ? `${plural(cells.length, 'cell')}: ` : '';
  return [served + cells.map(nameOf).join(' · '), framesText(frames)].filter(Boolean).join(', ');
}

interface LineProps {
  line: PlannedLine;
  name: string;
  index: number;
  isOpen: boolean;
  onFlip: () => void;
}
function TraceLine({ line, name, index, isOpen, onFlip }: LineProps) {
  const t = largest(line);
  const expectedS = line.traces.reduce<number | null>(
    (n, x) => (n === null || x.expectedS === null ? null : n + x.expectedS),
    0,
  );
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
        {expectedS === null ? DASH : `${line.traces.some(isRough) ? '≈ ' : ''}${duration(expectedS)}`}
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

const FILES_SHOWN = 40;

function TraceDetails({ line }: { line: PlannedLine }) {
  const t = largest(line);
  const files = line.traces.flatMap((x) => x.cells.flatMap((c) => c.files));
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
        <div>
          {plural(t.objects, 'object')}
          {line.traces.length > 1 && ', in the frame that takes most memory'}
        </div>
        <div className={`mono dim ${styles.files}`}>
          {files.slice(0, FILES_SHOWN).map((f) => (
            <div key={f}>{f}</div>
          ))}
          {files.length > FILES_SHOWN && <div>and {plural(files.length - FILES_SHOWN, 'more file')}</div>}
        </div>
        {t.lightings > 1 && (
          <div className="dim">{plural(t.lightings, 'lighting')}: their light is kept apart, which takes film</div>
        )}
        {t.droppedCount > 0 && <Dropped trace={t} />}
        {t.inPartCount > 0 && <div className="dim">pieces of {plural(t.inPartCount, 'object')} left out</div>}
        {t.simplifiedCount > 0 && <div className="dim">{plural(t.simplifiedCount, 'object')} simplified</div>}
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
