// A machine's week: when it renders with all of itself, with some threads, or not at all. Painted hour by hour.
import { Checkbox, Modal, SegmentedControl } from '@mantine/core';
import type { NodeHours, RenderNode } from '@variscen/contract';
import { POWERS, type HourPower } from '@variscen/core/plan';
import { type KeyboardEvent, type PointerEvent, useState } from 'react';
import { Buttons } from '../../ui/Buttons.tsx';
import { NumberField } from '../../ui/NumberField.tsx';
import styles from './HoursDialog.module.css';

const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'] as const;
const HOURS = Array.from({ length: 24 }, (_, h) => h);
const POWER_WORDS: Readonly<Record<HourPower, string>> = { full: 'All threads', some: 'Some threads', none: 'Nothing' };
/** All night, some threads by day: what most want who work at the machine. */
const OFFICE_DAY = { from: 8, to: 19, days: 5 };

interface Props {
  readonly node: RenderNode;
  readonly onKeep: (hours: NodeHours) => void;
  readonly onClose: () => void;
}

export function HoursDialog({ node, onKeep, onClose }: Props) {
  const [hours, setHours] = useState<NodeHours>(node.hours);
  const [brush, setBrush] = useState<HourPower>('some');
  const paint = (cells: readonly (readonly [day: number, hour: number])[]) =>
    setHours((now) => ({
      ...now,
      week: now.week.map((day, d) => day.map((p, h) => (cells.some(([x, y]) => x === d && y === h) ? brush : p))),
    }));
  const office = () =>
    setHours((now) => ({
      ...now,
      week: now.week.map((day, d) =>
        day.map((_, h) => (d < OFFICE_DAY.days && h >= OFFICE_DAY.from && h < OFFICE_DAY.to ? 'some' : 'full')),
      ),
    }));
  return (
    <Modal opened onClose={onClose} title={`Working hours of ${node.name}`} size={760}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          onKeep(hours);
        }}
      >
        <div className={styles.tools}>
          <SegmentedControl
            size="xs"
            aria-label="Paint with"
            value={brush}
            onChange={(v) => setBrush(v as HourPower)}
            data={POWERS.map((value) => ({ value, label: POWER_WORDS[value] }))}
          />
          <button type="button" className="quiet" onClick={office}>
            Some threads from 8 to 19 on weekdays
          </button>
        </div>
        <Week week={hours.week} onPaint={paint} />
        <div className={styles.settings}>
          <span>“Some” is</span>
          <NumberField
            label="Some threads"
            unit={hours.someThreads === 1 ? 'thread' : 'threads'}
            value={hours.someThreads}
            min={1}
            max={node.threads}
            decimals={0}
            onChange={(someThreads) => setHours({ ...hours, someThreads })}
          />
          {node.isOwn && (
            <Checkbox
              size="xs"
              label="One thread fewer while somebody edits"
              checked={hours.stepsBack}
              onChange={(e) => setHours({ ...hours, stepsBack: e.currentTarget.checked })}
            />
          )}
        </div>
        <p className="dim">
          By the clock of the server’s machine. What renders when the hour changes keeps its work and goes on with the
          threads it may have.
        </p>
        <Buttons label="Keep the hours" onCancel={onClose} />
      </form>
    </Modal>
  );
}

/** A grid: one tab stop, arrows to move, Space to paint; painted by dragging, and by a day’s or an hour’s head. */
function Week({
  week,
  onPaint,
}: {
  week: NodeHours['week'];
  onPaint: (cells: readonly (readonly [number, number])[]) => void;
}) {
  const [at, setAt] = useState<readonly [number, number]>([0, 0]);
  const [isPainting, setPainting] = useState(false);
  const onKey = (e: KeyboardEvent) => {
    const steps: Readonly<Record<string, readonly [number, number]>> = {
      ArrowLeft: [0, -1],
      ArrowRight: [0, 1],
      ArrowUp: [-1, 0],
      ArrowDown: [1, 0],
    };
    const step = steps[e.key];
    if (e.key === ' ') onPaint([at]);
    else if (step) setAt([clamp(at[0] + step[0], 6), clamp(at[1] + step[1], 23)]);
    else return;
    e.preventDefault();
  };
  const begin = (e: PointerEvent, cell: readonly [number, number]) => {
    e.currentTarget.releasePointerCapture(e.pointerId);
    setPainting(true);
    setAt(cell);
    onPaint([cell]);
  };
  return (
    <div
      role="grid"
      aria-label="Week"
      aria-activedescendant={cellId(at)}
      tabIndex={0}
      className={styles.week}
      onKeyDown={onKey}
      onPointerUp={() => setPainting(false)}
      onPointerLeave={() => setPainting(false)}
    >
      <div role="row" className={styles.day}>
        <span role="columnheader" />
        {HOURS.map((h) => (
          <button
            key={h}
            type="button"
            role="columnheader"
            tabIndex={-1}
            className={`mono ${styles.hourHead}`}
            title={`Paint ${h}:00 of every day`}
            onClick={() => onPaint(DAYS.map((_, d) => [d, h] as const))}
          >
            {h}
          </button>
        ))}
      </div>
      {DAYS.map((name, d) => (
        <div key={name} role="row" className={styles.day}>
          <button
            type="button"
            role="rowheader"
            tabIndex={-1}
            className={styles.dayHead}
            title={`Paint all of ${name}`}
            onClick={() => onPaint(HOURS.map((h) => [d, h] as const))}
          >
            {name}
          </button>
          {HOURS.map((h) => (
            <span
              key={h}
              id={cellId([d, h])}
              role="gridcell"
              aria-label={`${name} ${h}:00, ${POWER_WORDS[week[d]![h]!]}`}
              data-power={week[d]![h]}
              data-cursor={at[0] === d && at[1] === h}
              className={styles.hour}
              onPointerDown={(e) => begin(e, [d, h])}
              onPointerEnter={() => isPainting && onPaint([[d, h]])}
            />
          ))}
        </div>
      ))}
    </div>
  );
}
const clamp = (n: number, most: number): number => Math.max(0, Math.min(most, n));
const cellId = ([d, h]: readonly [number, number]): string => `hour-${d}-${h}`;
