// How many of an engine's threads may work, which may be another from one moment to the next; and a pass over the
// film's tiles with threads that come and go.
import * as K from '../kernel/layout/index.ts';
import type { KernelPool } from './pool.ts';

export class Power {
  private wake: () => void = () => undefined;
  private next = this.renewed();
  /** @param threads how many there are */
  constructor(private threads: number) {}

  get active(): number {
    return this.threads;
  }
  set(threads: number): void {
    if (threads === this.threads) return;
    this.threads = threads;
    this.wake();
  }
  /** When it is another, or somebody is to look. */
  changed(): Promise<void> {
    return this.next;
  }
  nudge(): void {
    this.wake();
  }
  private renewed(): Promise<void> {
    return new Promise((resolve) => {
      this.wake = () => {
        this.next = this.renewed();
        resolve();
      };
    });
  }
}

/**
 * Renders the job's tiles. A thread that may not work any more ends at its next tile, within a second or so; one that
 * may again goes on with the next. Returns the seconds in which none worked.
 */
export async function renderPass(
  pool: KernelPool,
  power: Power,
  job: Int32Array,
  argsOf: (thread: number) => readonly [job: number, scratch: number],
): Promise<number> {
  const working = new Map<number, Promise<void>>();
  const faults: unknown[] = [];
  let idleS = 0;
  const isOver = () =>
    faults.length > 0 ||
    Atomics.load(job, K.JOB.CANCEL / 4) !== 0 ||
    Atomics.load(job, K.JOB.NEXT_TILE / 4) >= job[K.JOB.END_TILE / 4]!;
  const start = (thread: number) => {
    const [at, scratch] = argsOf(thread);
    const done = pool.call(thread, 'renderTiles', at, scratch, thread).then(
      () => undefined,
      (e: unknown) => void faults.push(e),
    );
    working.set(
      thread,
      done.then(() => void working.delete(thread)),
    );
  };
  while (working.size > 0 || !isOver()) {
    Atomics.store(job, K.JOB.ACTIVE / 4, power.active);
    for (let t = 0; t < power.active && !isOver(); t++) if (!working.has(t)) start(t);
    const began = performance.now();
    const isIdle = working.size === 0;
    await Promise.race([power.changed(), ...working.values()]);
    if (isIdle) idleS += (performance.now() - began) / 1000;
  }
  if (faults.length) throw faults[0];
  return idleS;
}
