// Runs a task in another process at the lowest priority: what answers people goes first, threads that the task starts
// included, and a task that runs out of memory takes nothing else with it. In a thread of the server its helpers ran at
// the server's own priority, and answers waited for a processor.
import { totalmem } from 'node:os';
import { AppError, ERRORS, type ErrorCode } from '@variscen/contract';
import { TASK_LIMITS, lanes, residentBytes } from './limits.ts';
import { endProcess, keepProcess, takeProcess } from './taskProcesses.ts';
import type { Message, Outcomes, Task } from './tasks.ts';

const lane = lanes();
const LOOKED_EVERY_MS = 500;
const MIB = 2 ** 20;
let mostBytes = Math.floor(totalmem() * 0.75);
/** What a task's process may hold. */
export function limitTaskMemory(bytes: number): void {
  mostBytes = bytes;
}

const IMPORTS: ReadonlySet<Task['kind']> = new Set(['import', 'environment', 'lut', 'plate']);
function failureOf(task: Task, { code, message }: Extract<Message, { type: 'failed' }>): Error {
  if (code === 'INTERNAL') return new Error(message);
  if (code in ERRORS) return new AppError(code as ErrorCode, message);
  return new AppError(IMPORTS.has(task.kind) ? 'IMPORT_FAILED' : 'INVALID', message);
}
const cancelled = () => new AppError('WRONG_STATE', 'It was cancelled.');

/** @throws AppError of what is wrong with what was given, or of a limit; Error where the task's process failed */
export async function runTask<T extends Task>(
  task: T,
  onProgress?: (fraction: number) => void,
  signal?: AbortSignal,
): Promise<Outcomes[T['kind']]> {
  if (signal?.aborted) throw cancelled();
  const { lane: itsLane, timeLimitMs } = TASK_LIMITS[task.kind];
  const leave = await lane[itsLane].enter(signal).catch(() => {
    throw cancelled();
  });
  try {
    return (await inProcess(task, timeLimitMs, onProgress, signal)) as Outcomes[T['kind']];
  } finally {
    leave();
  }
}

function inProcess(
  task: Task,
  timeLimitMs: number,
  onProgress?: (fraction: number) => void,
  signal?: AbortSignal,
): Promise<unknown> {
  return new Promise((resolve, reject) => {
    const heapMib = Math.max(256, Math.floor(mostBytes / MIB));
    const child = takeProcess(heapMib);
    let isOver = false;
    const end = () => {
      isOver = true;
      signal?.removeEventListener('abort', stop);
      clearTimeout(late);
      clearInterval(looking);
    };
    const fail = (e: Error) => {
      end();
      endProcess(child);
      reject(e);
    };
    const succeed = (value: unknown) => {
      end();
      void keepProcess(child, heapMib);
      resolve(value);
    };
    const stop = () => fail(cancelled());
    const late = setTimeout(() => {
      const minutes = Math.round(timeLimitMs / 60_000);
      fail(new AppError('TASK_ENDED', `It was ended: it was not done after ${minutes} minutes.`, REMEDY_OF_FILES));
    }, timeLimitMs);
    const looking = setInterval(() => {
      void residentBytes(child.pid ?? 0).then((bytes) => {
        if (isOver || bytes <= mostBytes) return; // a process whose task is done may have the next one by now
        const mb = Math.round(mostBytes / MIB);
        fail(new AppError('TASK_ENDED', `It was ended: it takes more than ${mb} MB of memory.`, REMEDY_OF_FILES));
      });
    }, LOOKED_EVERY_MS);
    signal?.addEventListener('abort', stop, { once: true });
    child.on('message', (m: Message) => {
      if (m.type === 'progress') onProgress?.(m.fraction);
      else if (m.type === 'done') succeed(m.value);
      else fail(failureOf(task, m));
    });
    child.on('error', fail);
    child.on('exit', (code, by) =>
      fail(new AppError('TASK_ENDED', `What works on this ended with ${by ?? String(code)} before it was done.`)),
    );
    child.send(task);
  });
}
const REMEDY_OF_FILES =
  'Where it is about a file, save it smaller or in parts. VARISCEN_MEMORY_MB says what may be taken.';
