// What is told of traces while they render, and of no use after: it is in memory alone.
import type { TraceStage } from '@variscen/contract';

/** A preview outlives its trace so long: pages that have just read of it still ask for it. */
const PREVIEW_KEPT_MS = 20_000;

export interface LastReport {
  readonly stage: TraceStage;
  /** @see NodeReport.noise */
  readonly noise: number | null;
}

export class RunningTraces {
  private readonly previews = new Map<string, { readonly version: number; readonly png: Uint8Array }>();
  private readonly reports = new Map<string, LastReport>();

  show(traceId: string, png: Uint8Array): void {
    this.previews.set(traceId, { version: this.previewVersion(traceId) + 1, png });
  }
  /** 0: there is none. */
  previewVersion(traceId: string): number {
    return this.previews.get(traceId)?.version ?? 0;
  }
  preview(traceId: string): Uint8Array | undefined {
    return this.previews.get(traceId)?.png;
  }
  report(traceId: string, report: LastReport): void {
    this.reports.set(traceId, report);
  }
  lastReport(traceId: string): LastReport {
    return this.reports.get(traceId) ?? { stage: 'tracing', noise: null };
  }
  /** The trace renders no more. */
  drop(traceId: string): void {
    this.reports.delete(traceId);
    const shown = this.previews.get(traceId);
    if (!shown) return;
    const drop = () => {
      if (this.previews.get(traceId) === shown) this.previews.delete(traceId);
    };
    setTimeout(drop, PREVIEW_KEPT_MS).unref();
  }
}
