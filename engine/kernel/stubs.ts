// Rays that reach what is not loaded are marked; a stage that has marked some stands still until the host has loaded
// it, and they go again (loaded.ts). Only the first stub that a ray reaches is loaded for it: what lies behind may be
// hidden by it. What is left out for good is passed, and the ray says so (leftOut.ts).
import * as HIT from './layout/hit';
import * as RAY from './layout/ray';
import * as STUB from './layout/stub';

/** Since the last look: each thread has its own. */
let marks: u32 = 0;
let passes: u32 = 0;
/** Whether rays that look for anything want what they reach, or only say that they reached something. */
let anyWants: bool = false;
/** Whether rays look for what they pass alone: what they meet is known, and may have been taken out since. */
let passOnly: bool = false;

/**
 * A ray looks for what is nearest; h: what it has met so far. Its origin and direction, in all lanes, are the
 * instance's. Returns whether it need not look any further, since it goes again.
 */
export function reachedNearest(
  stub: usize,
  ray: usize,
  h: usize,
  ox: v128,
  oy: v128,
  oz: v128,
  dx: v128,
  dy: v128,
  dz: v128,
): bool {
  if (!load<u32>(stub, STUB.LEFT_OUT)) {
    if (passOnly) return false;
    store<u32>(stub, 1, STUB.WANTED);
    wait(ray);
    return true;
  }
  if (!pass(ray, stub)) return false;
  const box = stub + STUB.BOX;
  const near = max<f32>(0, entry(box, ox, dx));
  store<f32>(h, max<f32>(near, max<f32>(entry(box + 4, oy, dy), entry(box + 8, oz, dz))), HIT.PASSED_AT);
  return false;
}
/** A ray looks for anything, and goes on: what is loaded may stop it. */
export function reachedAny(stub: usize, ray: usize): void {
  if (load<u32>(stub, STUB.LEFT_OUT)) {
    pass(ray, stub);
    return;
  }
  if (anyWants && !(load<u32>(ray, RAY.MARKED) & RAY.WAITS)) store<u32>(stub, 1, STUB.WANTED);
  wait(ray);
}
export function letAnyWant(want: bool): void {
  anyWants = want;
}
export function letPassOnly(only: bool): void {
  passOnly = only;
}
/** Where a ray enters the slab of an axis. */
function entry(slab: usize, o: v128, d: v128): f32 {
  const from = f32x4.extract_lane(o, 0);
  const along = f32x4.extract_lane(d, 0);
  if (along == 0) return 0;
  return min<f32>((load<f32>(slab) - from) / along, (load<f32>(slab, 12) - from) / along);
}
function wait(ray: usize): void {
  store<u32>(ray, load<u32>(ray, RAY.MARKED) | RAY.WAITS, RAY.MARKED);
  marks++;
}

/**
 * Of several that a ray passes the brightest counts, and of those the first in the list of what is left out. Returns
 * whether this one does.
 */
function pass(ray: usize, stub: usize): bool {
  const marked = load<u32>(ray, RAY.MARKED);
  const before: usize = marked & RAY.PASSED;
  passes++;
  if (before) {
    const mine = abs<f32>(load<f32>(stub, STUB.BRIGHTNESS));
    const its = abs<f32>(load<f32>(before, STUB.BRIGHTNESS));
    if (its > mine) return false;
    if (its == mine && load<u32>(before, STUB.LEFT_OUT) <= load<u32>(stub, STUB.LEFT_OUT)) return false;
  }
  store<u32>(ray, (marked & RAY.WAITS) | (<u32>stub), RAY.MARKED);
  return true;
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
