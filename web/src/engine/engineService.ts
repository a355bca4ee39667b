// The page's engine as the page uses it: one worker with one copy of the scene, whoever asks. It ends when nobody has
// asked for anything for a while.
import type { Grade } from '@variscen/core/image';
import type { Change } from '@variscen/core/looks';
import type { FromEngine, Job, Said, ToEngine } from './messages.ts';
import EngineWorker from './worker/engine.worker.ts?worker';

const IDLE_MS = 60_000;

export class EngineService {
  private worker: Worker | undefined;
  private readonly heard = new Map<number, (said: Said) => void>();
  private last = 0;
  private idle: ReturnType<typeof setTimeout> | undefined;

  /** Answers with the job's number. It is heard of until it is forgotten. */
  ask(job: Job, heard: (said: Said) => void): number {
    clearTimeout(this.idle);
    const id = ++this.last;
    this.heard.set(id, heard);
    this.post({ kind: 'ask', id, job });
    return id;
  }
  regrade(id: number, grade: Grade): void {
    if (this.heard.has(id)) this.post({ kind: 'regrade', id, grade });
  }
  relight(id: number, changes: readonly Change[]): void {
    if (this.heard.has(id)) this.post({ kind: 'relight', id, changes });
  }
  forget(id: number): void {
    if (!this.heard.delete(id)) return;
    this.post({ kind: 'forget', id });
    if (!this.heard.size) this.idle = setTimeout(() => this.close(), IDLE_MS);
  }

  private post(m: ToEngine): void {
    this.worker ??= this.open();
    this.worker.postMessage(m);
  }
  private open(): Worker {
    const worker = new EngineWorker();
    worker.onmessage = ({ data: { id, said } }: MessageEvent<FromEngine>) => this.heard.get(id)?.(said);
    worker.onerror = (e) => {
      this.close();
      const waiting = [...this.heard.values()];
      this.heard.clear();
      for (const heard of waiting) heard({ kind: 'failed', message: e.message || 'The engine could not be loaded.' });
    };
    return worker;
  }
  private close(): void {
    this.worker?.terminate();
    this.worker = undefined;
  }
}

export const engineService = new EngineService();
