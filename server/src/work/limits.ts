// What tasks may take: how many run at once, how long, and how much memory, so that one file can hold up neither the
// machine nor the other tasks.
import { readFile } from 'node:fs/promises';
import type { Task } from './tasks.ts';

export interface TaskLimits {
  readonly timeLimitMs: number;
  /** Tasks of a kind of work wait for each other. */
  readonly lane: 'files' | 'pictures' | 'deliveries' | 'plans' | 'probes';
}
const MINUTE_MS = 60_000;
export const TASK_LIMITS: Readonly<Record<Task['kind'], TaskLimits>> = {
  import: { timeLimitMs: 60 * MINUTE_MS, lane: 'files' },
  environment: { timeLimitMs: 5 * MINUTE_MS, lane: 'files' },
  lut: { timeLimitMs: 2 * MINUTE_MS, lane: 'files' },
  plate: { timeLimitMs: 5 * MINUTE_MS, lane: 'files' },
  reference: { timeLimitMs: 10 * MINUTE_MS, lane: 'files' },
  verify: { timeLimitMs: 6 * 60 * MINUTE_MS, lane: 'files' },
  split: { timeLimitMs: 30 * MINUTE_MS, lane: 'files' },
  export: { timeLimitMs: 30 * MINUTE_MS, lane: 'files' },
  lightPicture: { timeLimitMs: 10 * MINUTE_MS, lane: 'files' },
  tiles: { timeLimitMs: 10 * MINUTE_MS, lane: 'pictures' },
  objectsAt: { timeLimitMs: MINUTE_MS, lane: 'pictures' },
  objectMask: { timeLimitMs: 10 * MINUTE_MS, lane: 'pictures' },
  sheet: { timeLimitMs: 60 * MINUTE_MS, lane: 'files' },
  develop: { timeLimitMs: 60 * MINUTE_MS, lane: 'pictures' },
  deliver: { timeLimitMs: 12 * 60 * MINUTE_MS, lane: 'deliveries' },
  film: { timeLimitMs: 10 * MINUTE_MS, lane: 'files' },
  match: { timeLimitMs: 15 * MINUTE_MS, lane: 'plans' },
  revise: { timeLimitMs: 15 * MINUTE_MS, lane: 'plans' },
  plan: { timeLimitMs: 30 * MINUTE_MS, lane: 'plans' },
  proof: { timeLimitMs: 60 * MINUTE_MS, lane: 'probes' },
  standIns: { timeLimitMs: 30 * MINUTE_MS, lane: 'plans' },
  probe: { timeLimitMs: 30 * MINUTE_MS, lane: 'probes' },
};
const AT_ONCE = 2;
/** A look takes all processors. */
const PROBES_AT_ONCE = 1;
export const lanes = (): Readonly<Record<TaskLimits['lane'], Lane>> => ({
  files: new Lane(AT_ONCE),
  pictures: new Lane(AT_ONCE),
  deliveries: new Lane(1),
  plans: new Lane(AT_ONCE),
  probes: new Lane(PROBES_AT_ONCE),
});

/** Lets so many through at once, the others in the order in which they came. */
export class Lane {
  private running = 0;
  constructor(private readonly atOnce = AT_ONCE) {}

  private readonly waiting: (() => void)[] = [];

  /** @throws the signal's reason where it is aborted while it waits */
  async enter(signal?: AbortSignal): Promise<() => void> {
    signal?.throwIfAborted();
    if (this.running < this.atOnce) this.running++;
    else
      await new Promise<void>((go, fail) => {
        const enter = () => go();
        this.waiting.push(enter);
        signal?.addEventListener('abort', () => {
          const at = this.waiting.indexOf(enter);
          if (at < 0) return;
          this.waiting.splice(at, 1);
          fail(signal.reason as Error);
        });
      });
    let isOut = false;
    return () => {
      if (isOut) return;
      isOut = true;
      const next = this.waiting.shift();
      if (next) next();
      else this.running--;
    };
  }
}

/** Memory that a process holds, bytes; 0 where it cannot be told. */
export async function residentBytes(pid: number): Promise<number> {
  const status = await readFile(`/proc/${pid}/status`, 'utf8').catch(() => '');
  const kib = /^VmRSS:\s+(\d+) kB$/m.exec(status)?.[1];
  return kib === undefined ? 0 : Number(kib) * 1024;
}
