// A thread beside the one that answers people: it keeps scenes parsed and states digested, so that neither holds an
// answer up. It is started when it is first asked; when it dies, who waits is told, and the next question starts
// another.
import { Worker } from 'node:worker_threads';
import { AppError, ERRORS, type ErrorCode } from '@variscen/contract';
import type { LooksAnswers, LooksAsk, LooksReply, LooksSetup } from './looksTasks.ts';

const entry = new URL(
  import.meta.url.endsWith('.ts') ? '../../dist/work/looksWorker.js' : './looksWorker.js',
  import.meta.url,
);

export class LooksThread {
  private worker: Worker | undefined;
  private readonly waiting = new Map<number, { resolve: (value: unknown) => void; reject: (e: Error) => void }>();
  private next = 1;
  constructor(private readonly setup: LooksSetup) {}

  ask<A extends LooksAsk>(ask: A): Promise<LooksAnswers[A['kind']]> {
    const id = this.next++;
    const worker = (this.worker ??= this.start());
    return new Promise<unknown>((resolve, reject) => {
      this.waiting.set(id, { resolve, reject });
      worker.postMessage({ id, ask });
    }) as Promise<LooksAnswers[A['kind']]>;
  }
  async close(): Promise<void> {
    const { worker } = this;
    this.worker = undefined;
    await worker?.terminate();
  }

  private start(): Worker {
    const worker = new Worker(entry, { workerData: this.setup, execArgv: [] });
    const ended = (e: Error) => {
      if (this.worker === worker) this.worker = undefined;
      for (const w of this.waiting.values()) w.reject(e);
      this.waiting.clear();
    };
    worker.on('message', (m: LooksReply) => {
      const w = this.waiting.get(m.id);
      this.waiting.delete(m.id);
      if ('value' in m) w?.resolve(m.value);
      else w?.reject(m.code in ERRORS ? new AppError(m.code as ErrorCode, m.message) : new Error(m.message));
    });
    worker.on('error', ended);
    worker.on('exit', (code) => ended(new Error(`The thread for looks ended with ${code}.`)));
    worker.unref();
    return worker;
  }
}
