// What a stage has met is that of the whole scene: rays that reached a stub wait until it is loaded and go again, as
// often as they reach others. Nothing has been shaded or added by then, so pictures do not depend on what was loaded
// when.
//
// Only where a thread stands still may anything be taken out of memory. Rays that met something which is gone go again,
// too.
import * as GEOM from './layout/geometry';
import * as HIT from './layout/hit';
import * as INST from './layout/instance';
import * as JOB from './layout/job';
import * as RAY from './layout/ray';
import * as SCRATCH from './layout/scratch';
import { geometryOf } from './geometry';
import { wantLevels } from './levels';
import { askAgain, letAnyWant, letPassOnly, takeMarks, takePasses } from './stubs';
import { NONE, closest, occluded } from './traverse';

/** Tells the host that this thread stands still, and returns when it may go on. */
@external('env', 'stand')
declare function stand(job: usize, scratch: usize): void;

let job: usize = 0;
let scratch: usize = 0;

export function beginRendering(aJob: usize, aScratch: usize): void {
  job = aJob;
  scratch = aScratch;
  takeMarks();
  atomic.store<i32>(scratch + SCRATCH.RUNNING, 1);
  standWhilePaused();
}
export function endRendering(): void {
  atomic.store<i32>(scratch + SCRATCH.RUNNING, 0);
}

/** Between stages, where nothing that was met is of use any more. */
export function standWhilePaused(): void {
  while (atomic.load<i32>(job + JOB.PAUSE)) stand(job, scratch);
}
function isCancelled(): bool {
  return atomic.load<i32>(job + JOB.CANCEL) != 0;
}

/**
 * The n rays have been traced; some may have to go again. Returns how many of them, from the first, have met what they
 * meet: fewer than n where memory does not hold what all of them have met.
 * @param areOfPaths their surfaces will be read as these see them, textures in the level that fits
 */
export function settleNearest(rays: usize, hits: usize, given: i32, areOfPaths: bool): i32 {
  let n = given;
  const instances: usize = load<u32>(job, JOB.INSTANCES);
  while (takeMarks() || (areOfPaths && wantLevels(job, rays, hits, n))) {
    for (let i: i32 = 0; i < n; i++) {
      const hit = hits + <usize>i * HIT.BYTES;
      store<u32>(hit, placeOf(hit, instances), HIT.AT);
    }
    stand(job, scratch);
    if (isCancelled()) {
      // nobody will see what comes of it, but it must not be read where nothing is any more
      for (let i: i32 = 0; i < n; i++) store<u32>(hits + <usize>i * HIT.BYTES, NONE, HIT.INST);
      takeMarks();
      return n;
    }
    n = min<i32>(n, atomic.load<i32>(job + JOB.GROUP));
    let together: i32 = 0;
    for (let i: i32 = 0; i < n; i++) {
      const ray = rays + <usize>i * RAY.BYTES;
      const hit = hits + <usize>i * HIT.BYTES;
      if (!(load<u32>(ray, RAY.MARKED) & RAY.WAITS) && load<u32>(hit, HIT.AT) == placeOf(hit, instances)) continue;
      together = goesAgain(ray, i, together);
      if (together < SCRATCH.AGAIN) continue;
      meetAgain(rays, hits, together);
      together = 0;
    }
    meetAgain(rays, hits, together);
  }
  if (takePasses()) findPassed(rays, hits, n);
  for (let i = n; i < given; i++) store<u32>(rays + <usize>i * RAY.BYTES, 0, RAY.MARKED);
  countStage();
  return n;
}
/** Boxes are entered about there: tests of boxes round. */
const CLEARLY: f32 = 1.0001;
/**
 * What rays pass that is left out was noted before all of it was known to lie in front of what they meet. Where what
 * was noted does not clearly lie there, they go again as far as that: what they pass depends on nothing else then.
 */
function findPassed(rays: usize, hits: usize, n: i32): void {
  let together: i32 = 0;
  letPassOnly(true);
  for (let i: i32 = 0; i < n; i++) {
    const ray = rays + <usize>i * RAY.BYTES;
    if (!load<u32>(ray, RAY.MARKED)) continue;
    const hit = hits + <usize>i * HIT.BYTES;
    if (load<f32>(hit, HIT.PASSED_AT) * CLEARLY < load<f32>(hit)) continue;
    together = goesAgain(ray, i, together);
    store<f32>(again(together - 1), load<f32>(hit), RAY.TMAX);
    if (together < SCRATCH.AGAIN) continue;
    passAgain(rays, together);
    together = 0;
  }
  passAgain(rays, together);
  letPassOnly(false);
  takeMarks();
  takePasses();
}
function passAgain(rays: usize, n: i32): void {
  traceAgain(n);
  for (let i: i32 = 0; i < n; i++) takeBack(rays, again(i), ~RAY.WAITS);
}
function meetAgain(rays: usize, hits: usize, n: i32): void {
  traceAgain(n);
  for (let i: i32 = 0; i < n; i++) {
    const number = takeBack(rays, again(i), ~0);
    memory.copy(hits + <usize>number * HIT.BYTES, scratch + SCRATCH.HITS_AGAIN + <usize>i * HIT.BYTES, HIT.BYTES);
  }
}

// Rays of a stage that go again are copied, so that many of them are in flight together.

// @ts-ignore
@inline function again(i: i32): usize {
  return scratch + SCRATCH.RAYS_AGAIN + <usize>i * RAY.BYTES;
}
/** @param number of the ray in its stage @param together so many go already. Returns how many go now. */
function goesAgain(ray: usize, number: i32, together: i32): i32 {
  const copy = again(together);
  memory.copy(copy, ray, RAY.BYTES);
  store<u32>(copy, 0, RAY.MARKED);
  store<u32>(copy, number, RAY.PATH);
  return together + 1;
}
function traceAgain(n: i32): void {
  const slots = scratch + SCRATCH.SLOTS;
  closest(load<u32>(job, JOB.ROOT), again(0), scratch + SCRATCH.HITS_AGAIN, n, slots, RAY.IN_FLIGHT);
}
/** What it was marked with goes to the ray that a copy was made of. Returns the ray's number. */
function takeBack(rays: usize, copy: usize, marks: u32): u32 {
  const number = load<u32>(copy, RAY.PATH);
  store<u32>(rays + <usize>number * RAY.BYTES, load<u32>(copy, RAY.MARKED) & marks, RAY.MARKED);
  return number;
}

/** Where the piece is in memory that was met, 0 where it is not; 1 of what is always there. */
function placeOf(hit: usize, instances: usize): u32 {
  const number = load<u32>(hit, HIT.INST);
  const prim = load<u32>(hit, HIT.PRIM);
  if (number == NONE || <i32>prim >= 0) return 1;
  return load<u32>(geometryOf(instances + <usize>number * INST.BYTES, prim), GEOM.AT);
}

/**
 * As settleNearest(), for shadow rays: what has been found of one stays, so all of them are settled one after another.
 * Those that nothing in memory stops go once more, and want what they reach.
 */
export function settleAny(rays: usize, results: usize, n: i32): void {
  letAnyWant(true);
  while (takeMarks()) {
    if (!anyWaits(rays, results, n)) break;
    if (!wantAny(rays, results, n)) continue;
    stand(job, scratch);
    if (isCancelled()) break;
    askAgain();
  }
  letAnyWant(false);
  takeMarks();
  takePasses();
  countStage();
}
/** Those that wait go again, as many as may go together. Returns whether they wait for something. */
function wantAny(rays: usize, results: usize, n: i32): bool {
  let left = atomic.load<i32>(job + JOB.GROUP);
  let together: i32 = 0;
  for (let i: i32 = 0; i < n && left > 0; i++) {
    const ray = rays + <usize>i * RAY.BYTES;
    if (!waits(ray, results, i)) continue;
    left--;
    together = goesAgain(ray, i, together);
    if (together < SCRATCH.AGAIN) continue;
    stopAgain(rays, results, together);
    together = 0;
  }
  stopAgain(rays, results, together);
  const some = takeMarks();
  if (anyWaits(rays, results, n)) askAgain();
  return some;
}
function stopAgain(rays: usize, results: usize, n: i32): void {
  const found = scratch + SCRATCH.HITS_AGAIN;
  occluded(load<u32>(job, JOB.ROOT), again(0), found, n, scratch + SCRATCH.SLOTS, RAY.IN_FLIGHT);
  for (let i: i32 = 0; i < n; i++) {
    const number = takeBack(rays, again(i), ~0);
    store<u32>(results + ((<usize>number) << 2), load<u32>(found + ((<usize>i) << 2)));
  }
}
// @ts-ignore
@inline function waits(ray: usize, results: usize, i: i32): bool {
  return (load<u32>(ray, RAY.MARKED) & RAY.WAITS) != 0 && load<u32>(results + ((<usize>i) << 2)) == 0;
}
function anyWaits(rays: usize, results: usize, n: i32): bool {
  for (let i: i32 = 0; i < n; i++) if (waits(rays + <usize>i * RAY.BYTES, results, i)) return true;
  return false;
}

function countStage(): void {
  atomic.add<i32>(scratch + SCRATCH.STAGES, 1);
}
