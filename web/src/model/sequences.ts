// Traces of one sequence stand in one line. Pure.
import { sayFrames } from '@variscen/core/scene';

export interface Line<T> {
  readonly key: string;
  /** At least one, in their order. */
  readonly traces: readonly T[];
}

/** Neighbours with the same key become one line; null stands alone. */
export function linesOf<T>(traces: readonly T[], keyOf: (t: T) => string | null, idOf: (t: T) => string): Line<T>[] {
  const lines: { key: string; of: string | null; traces: T[] }[] = [];
  for (const t of traces) {
    const of = keyOf(t);
    const last = lines.at(-1);
    if (of !== null && last?.of === of) last.traces.push(t);
    else lines.push({ key: idOf(t), of, traces: [t] });
  }
  return lines;
}

/** “frame 4” or “frames 1-40, 60”; empty where there are none. @param frames in any order */
export function framesText(frames: readonly number[]): string {
  if (!frames.length) return '';
  const sorted = [...frames].sort((a, b) => a - b);
  return `${sorted.length === 1 ? 'frame' : 'frames'} ${sayFrames(sorted)}`;
}
