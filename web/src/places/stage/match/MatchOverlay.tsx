// Lines over a plate, drawn by their ends, with the horizon and the ground that they say.
import { type FrameLine, type FramePoint, type PlateMatch, shownAt } from '@variscen/core/scene';
import type { KeyboardEvent, PointerEvent } from 'react';
import type { FrameRect } from '../../../view3d/viewport.ts';
import styles from './Match.module.css';
import type { Found } from './useMatching.ts';

/** Half the length of the ground's sides that are shown, in squares. */
const SQUARES = 5;
const HANDLE_PX = 6;
/** Ends may lie so far beyond the frame, in frames. */
const BEYOND = 1;

interface Props {
  lines: PlateMatch;
  found: Found | null;
  frame: FrameRect;
  onDraw: (lines: PlateMatch) => void;
}
export function MatchOverlay({ lines, found, frame, onDraw }: Props) {
  const { width, height } = frame;
  const px = ([x, y]: FramePoint): FramePoint => [x * width, y * height];
  return (
    <svg className={styles.overlay} width={width} height={height} aria-label="Lines on the plate" role="group">
      {found?.kind === 'camera' && (
        <svg width={width} height={height}>
          <Ground found={found} at={lines.groundAt} px={px} />
        </svg>
      )}
      {handlesOf(lines).map(({ line, pair, key }) => (
        <Line key={key} line={line} pair={pair} px={px} />
      ))}
      {handlesOf(lines).flatMap(({ line, pair, key, label, moved }) =>
        ([0, 1] as const).map((end) => (
          <Handle
            key={`${key} ${end}`}
            at={line[end]}
            label={`${label}, ${end === 0 ? 'one end' : 'the other end'}`}
            shape={pair === 'second' ? 'square' : 'round'}
            frame={frame}
            onMove={(p) => onDraw(moved(end === 0 ? [p, line[1]] : [line[0], p]))}
          />
        )),
      )}
      <Handle
        at={lines.ground}
        label="Point on the ground"
        shape="cross"
        frame={frame}
        onMove={(ground) => onDraw({ ...lines, ground })}
      />
    </svg>
  );
}

type Pair = 'first' | 'second' | 'length';
interface DrawnLine {
  readonly key: string;
  readonly pair: Pair;
  readonly label: string;
  readonly line: FrameLine;
  /** With this line elsewhere. */
  readonly moved: (line: FrameLine) => PlateMatch;
}
function handlesOf(lines: PlateMatch): DrawnLine[] {
  const { scale } = lines;
  const ofPair = (pair: 'first' | 'second'): DrawnLine[] =>
    ([0, 1] as const).map((k) => ({
      key: `${pair} ${k}`,
      pair,
      label: `${pair === 'first' ? 'First' : 'Second'} pair, line ${k + 1}`,
      line: lines[pair][k],
      moved: (line) => ({ ...lines, [pair]: k === 0 ? [line, lines[pair][1]] : [lines[pair][0], line] }),
    }));
  const length: DrawnLine[] =
    scale.by === 'length'
      ? [
          {
            key: 'length',
            pair: 'length',
            label: 'Line of known length',
            line: scale.line,
            moved: (line) => ({ ...lines, scale: { ...scale, line } }),
          },
        ]
      : [];
  return [...ofPair('first'), ...ofPair('second'), ...length];
}

function Line({ line, pair, px }: { line: FrameLine; pair: Pair; px: (p: FramePoint) => FramePoint }) {
  const [a, b] = [px(line[0]), px(line[1])];
  const ends = { x1: a[0], y1: a[1], x2: b[0], y2: b[1] };
  return (
    <>
      <line className={styles.halo} {...ends} />
      <line className={styles.line} data-pair={pair} {...ends} />
    </>
  );
}

interface HandleProps {
  at: FramePoint;
  label: string;
  shape: 'round' | 'square' | 'cross';
  frame: FrameRect;
  onMove: (p: FramePoint) => void;
}
/** Dragged, or moved by arrow keys: a pixel, with Shift ten. */
function Handle({ at, label, shape, frame, onMove }: HandleProps) {
  const { width, height } = frame;
  const [x, y] = [at[0] * width, at[1] * height];
  const move = (right: number, down: number) => onMove([within(right / width), within(down / height)]);
  const dragged = (e: PointerEvent<SVGGElement>) => {
    if (!e.currentTarget.hasPointerCapture(e.pointerId)) return;
    const box = e.currentTarget.ownerSVGElement!.getBoundingClientRect();
    move(e.clientX - box.left, e.clientY - box.top);
  };
  const key = (e: KeyboardEvent) => {
    const by = ARROWS[e.key];
    if (!by) return;
    e.preventDefault();
    e.stopPropagation();
    const step = e.shiftKey ? 10 : 1;
    move(x + by[0] * step, y + by[1] * step);
  };
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={label}
      className={styles.handle}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        e.currentTarget.focus();
      }}
      onPointerMove={dragged}
      onKeyDown={key}
      transform={`translate(${x} ${y})`}
    >
      <circle className={styles.reach} r={HANDLE_PX * 2} />
      <Mark shape={shape} />
    </g>
  );
}
const ARROWS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};
const within = (x: number): number => Math.min(1 + BEYOND, Math.max(-BEYOND, x));

function Mark({ shape }: { shape: HandleProps['shape'] }) {
  const r = HANDLE_PX;
  if (shape === 'round') return <circle className={styles.mark} r={r} />;
  if (shape === 'square') return <rect className={styles.mark} x={-r} y={-r} width={2 * r} height={2 * r} />;
  return <path className={styles.cross} d={`M${-r * 1.5} 0H${r * 1.5}M0 ${-r * 1.5}V${r * 1.5}`} />;
}

interface GroundProps {
  found: Extract<Found, { kind: 'camera' }>;
  at: PlateMatch['groundAt'];
  px: (p: FramePoint) => FramePoint;
}
/** Squares of a metre on the ground as the found camera shows them, larger where it stands high; and its horizon. */
function Ground({ found, at, px }: GroundProps) {
  const { settings, camera } = found;
  const step = squareM(settings.matrix[13]! - at[1]);
  const point = (i: number, k: number) => shownAt(settings, [at[0] + i * step, at[1], at[2] + k * step]);
  const parts: string[] = [];
  for (let i = -SQUARES; i <= SQUARES; i++)
    for (let k = -SQUARES; k < SQUARES; k++)
      for (const [a, b] of [
        [point(i, k), point(i, k + 1)],
        [point(k, i), point(k + 1, i)],
      ])
        if (a && b) parts.push(`M${px(a).join(' ')}L${px(b).join(' ')}`);
  const horizon = camera.horizon?.map(px);
  return (
    <g aria-hidden>
      <path className={styles.ground} d={parts.join('')} />
      {horizon && (
        <line
          className={styles.horizon}
          x1={horizon[0]![0]}
          y1={horizon[0]![1]}
          x2={horizon[1]![0]}
          y2={horizon[1]![1]}
        />
      )}
    </g>
  );
}
/** A metre, or as many times more or less as ten has powers, by how high the camera stands. */
export const squareM = (heightM: number): number => 10 ** Math.round(Math.log10(Math.max(1e-3, heightM) / 2));
