// Progress that arrives several times a second: kept apart from what is asked for, so that only what shows it is drawn
// again.
import type { ServerEvent, TraceStage } from '@variscen/contract';
import { create } from 'zustand';

export interface TraceProgress {
  readonly fraction: number;
  readonly samplesDone: number;
  readonly stage: TraceStage;
  readonly previewVersion: number;
}
interface ProgressState {
  readonly traces: Readonly<Record<string, TraceProgress>>;
  readonly imports: Readonly<Record<string, number>>;
  take(e: Extract<ServerEvent, { type: 'trace' | 'import' }>): void;
}
export const useProgress = create<ProgressState>((set) => ({
  traces: {},
  imports: {},
  take: (e) =>
    set((s) =>
      e.type === 'trace'
        ? {
            traces: {
              ...s.traces,
              [e.traceId]: {
                fraction: e.fraction,
                samplesDone: e.samplesDone,
                stage: e.stage,
                previewVersion: e.previewVersion,
              },
            },
          }
        : { imports: { ...s.imports, [e.projectId]: e.fraction } },
    ),
}));
