// Runs a task in a process of its own at the lowest priority: what answers people goes first, threads that the task
// starts included, and a task that runs out of memory takes nothing else with it. In a thread of the server its helpers
// ran at the server's own priority, and answers waited for a processor.
import { type ChildProcess, spawn } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { AppError } from '@variscen/contract';
import type { Message, Outcomes, Task } from './tasks.ts';

const entry = fileURLToPath(
  new URL(import.meta.url.endsWith('.ts') ? '../../dist/work/worker.js' : './worker.js', import.meta.url),
); // always the build, whatever loader the parent runs under

function start(): ChildProcess {
  const [command, ...args] =
    process.platform === 'linux' ? ['nice', '-n', '19', process.execPath, entry] : [process.execPath, entry];
  return spawn(command!, args, { stdio: ['ignore', 'inherit', 'inherit', 'ipc'], serialization: 'advanced' });
}

/** @throws AppError of what is wrong with what was given; Error where the task's process failed */
export function runTask<T extends Task>(
  task: T,
  onProgress?: (fraction: number) => void,
  signal?: AbortSignal,
): Promise<Outcomes[T['kind']]> {
  return new Promise((resolve, reject) => {
    const cancelled = () => new AppError('WRONG_STATE', 'It was cancelled.');
    if (signal?.aborted) {
      reject(cancelled());
      return;
    }
    const child = start();
    const end = (finish: () => void) => {
      signal?.removeEventListener('abort', stop);
      child.removeAllListeners();
      child.on('error', () => undefined);
      child.kill('SIGKILL');
      finish();
    };
    const stop = () => end(() => reject(cancelled()));
    signal?.addEventListener('abort', stop, { once: true });
    child.on('message', (m: Message) => {
      if (m.type === 'progress') onProgress?.(m.fraction);
      else if (m.type === 'done') end(() => resolve(m.value as Outcomes[T['kind']]));
      else
        end(() =>
          reject(
            m.code === 'INTERNAL'
              ? new Error(m.message)
              : new AppError(
                  task.kind === 'import' || task.kind === 'environment' || task.kind === 'lut'
                    ? 'IMPORT_FAILED'
                    : 'INVALID',
                  m.message,
                ),
          ),
        );
    });
    child.on('error', (e) => end(() => reject(e)));
    child.on('exit', (code, by) =>
      end(() => reject(new Error(`The process of a task ended with ${by ?? String(code)}.`))),
    );
    child.send(task);
  });
}
