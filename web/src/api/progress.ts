// Progress that arrives several times a second: kept apart from what is asked for, so that only what shows it is drawn
// again.
import type { ServerEvent, TraceStage } from '@variscen/contract';
import { create } from 'zustand';

export interface TraceProgress {
  readonly fraction: number;
  readonly samplesDone: number;
  readonly stage: TraceStage;
  /** Relative; null: not known. */
  readonly noise: number | null;
  readonly previewVersion: number;
  /** Fraction a second, over the last reports; null before there were two. */
  readonly perS: number | null;
  /** When it was reported, by this window's clock. */
  readonly atMs: number;
}
interface ProgressState {
  readonly traces: Readonly<Record<string, TraceProgress>>;
  readonly imports: Readonly<Record<string, number>>;
  /** Looks at what a cell needs, by camera and variant. */
  readonly looks: Readonly<Record<string, number>>;
  /** Files of what a cell needs, by camera and variant. */
  readonly splits: Readonly<Record<string, number>>;
  take(e: Extract<ServerEvent, { type: 'trace' | 'import' | 'evidence' | 'split' }>): void;
}
/** How much the last report counts against those before it. */
const WEIGHT = 0.15;
export function speedOf(
  before: Pick<TraceProgress, 'fraction' | 'perS' | 'atMs'> | undefined,
  fraction: number,
  atMs: number,
): Pick<TraceProgress, 'perS' | 'atMs'> {
  if (!before || fraction < before.fraction || atMs <= before.atMs) return { perS: null, atMs };
  const now = ((fraction - before.fraction) / (atMs - before.atMs)) * 1000;
  return { perS: before.perS === null ? now : before.perS + (now - before.perS) * WEIGHT, atMs };
}
export const useProgress = create<ProgressState>((set) => ({
  traces: {},
  imports: {},
  looks: {},
  splits: {},
  take: (e) =>
    set((s) => {
      if (e.type === 'import') return { imports: { ...s.imports, [e.projectId]: e.fraction } };
      if (e.type === 'evidence') return { looks: { ...s.looks, [`${e.cameraId} ${e.variantId}`]: e.fraction } };
      if (e.type === 'split') return { splits: { ...s.splits, [`${e.cameraId} ${e.variantId}`]: e.fraction } };
      return {
        traces: {
          ...s.traces,
          [e.traceId]: {
            fraction: e.fraction,
            samplesDone: e.samplesDone,
            stage: e.stage,
            noise: e.noise,
            previewVersion: e.previewVersion,
            ...speedOf(s.traces[e.traceId], e.fraction, performance.now()),
          },
        },
      };
    }),
}));
