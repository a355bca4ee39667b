// Rays that reach what is not loaded are marked and go on as if nothing were there; a stage that has marked some stands
// still until the host has loaded it, and they go again (loaded.ts).
import * as RAY from './layout/ray';
import * as STUB from './layout/stub';

/** Since the last look: each thread has its own. */
let marks: u32 = 0;

export function mark(stub: usize, ray: usize): void {
  store<u32>(stub, 1, STUB.WANTED);
  store<u32>(ray, 1, RAY.MARKED);
  marks++;
}

/** Whether rays were marked since it was asked last. */
export function takeMarks(): bool {
  const some = marks > 0;
  marks = 0;
  return some;
}
/** Rays that were marked before still wait. */
export function askAgain(): void {
  marks++;
}
