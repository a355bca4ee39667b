// Rays that reach what is not loaded are marked and go on as if nothing were there; a stage that has marked some stands
// still until the host has loaded it, and they go again (loaded.ts). What is left out for good is passed, and the ray says
// so (leftOut.ts).
import * as INST from './layout/instance';
import * as RAY from './layout/ray';
import * as STUB from './layout/stub';

/** Since the last look: each thread has its own. */
let marks: u32 = 0;
let passes: u32 = 0;

export function reached(stub: usize, ray: usize, inst: usize): void {
  if (load<u32>(stub, STUB.LEFT_OUT)) {
    pass(ray, inst);
    return;
  }
  store<u32>(stub, 1, STUB.WANTED);
  store<u32>(ray, load<u32>(ray, RAY.MARKED) | RAY.WAITS, RAY.MARKED);
  marks++;
}

/** Of several that a ray passes the brightest counts, and of those the first in the scene. */
function pass(ray: usize, inst: usize): void {
  const marked = load<u32>(ray, RAY.MARKED);
  const before = marked >> RAY.PASSED;
  const index = load<u32>(inst, INST.INDEX);
  passes++;
  if (before) {
    const other = inst - <usize>index * INST.BYTES + <usize>(before - 1) * INST.BYTES;
    const mine = abs<f32>(load<f32>(inst, INST.BRIGHTNESS));
    const its = abs<f32>(load<f32>(other, INST.BRIGHTNESS));
    if (its > mine || (its == mine && before <= index)) return;
  }
  store<u32>(ray, (marked & RAY.WAITS) | ((index + 1) << RAY.PASSED), RAY.MARKED);
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
/** Whether rays passed what is left out since it was asked last. */
export function takePasses(): bool {
  const some = passes > 0;
  passes = 0;
  return some;
}
