// Runs a task in a worker thread of its own.
import { Worker } from 'node:worker_threads';
import { AppError } from '@variscen/contract';
import type { Message, Outcomes, Task } from './tasks.ts';

const entry = new URL(import.meta.url.endsWith('.ts') ? '../../dist/work/worker.js' : './worker.js', import.meta.url);

export function runTask<T extends Task>(task: T, onProgress?: (fraction: number) => void, signal?: AbortSignal): Promise<Outcomes[T['kind']]> {
  return new Promise((resolve, reject) => {
    const worker = new Worker(entry, { workerData: task, execArgv: [] }); // always the build, whatever loader the parent runs under
    const stop = () => { void worker.terminate(); reject(new AppError('WRONG_STATE', 'It was cancelled.')); };
    const end = (finish: () => void) => { signal?.removeEventListener('abort', stop); finish(); void worker.terminate(); };
    signal?.addEventListener('abort', stop, { once: true });
    worker.on('message', (m: Message) => {
      if (m.type === 'progress') onProgress?.(m.fraction);
      else if (m.type === 'done') end(() => resolve(m.value as Outcomes[T['kind']]));
      else end(() => reject(m.code === 'INTERNAL' ? new Error(m.message) : new AppError(task.kind === 'import' || task.kind === 'environment' || task.kind === 'lut' ? 'IMPORT_FAILED' : 'INVALID', m.message)));
    });
    worker.on('error', (e) => end(() => reject(e)));
    worker.on('exit', (code) => { if (code !== 0) end(() => reject(new Error(`A worker ended with ${code}.`))); });
  });
}
