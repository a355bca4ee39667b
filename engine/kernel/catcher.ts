// Light of the place on shadow catchers. A catcher stands in for a thing of the place whose picture is there already,
// the plate. The camera sees the plate instead, weakened by the share of the place's light that things take from the
// catcher, and with the light that things send there. So two sums are kept: what of the place's light arrives, and what
// would if nothing but catchers were there. Both are of the same samples in the same order: where nothing is in the way
// they are the same to the bit, and their ratio is 1, without noise.
//
// Light of the place is that of suns, lamps, panels and the sky, straight or by way of other catchers; light of things
// that glow and light that things scatter is sent there by things.
import * as INST from './layout/instance';
import * as JOB from './layout/job';
import * as MASK from './layout/mask';
import * as PATH from './layout/path';
import * as RAY from './layout/ray';
import * as SCRATCH from './layout/scratch';
import * as SHADE from './layout/shade';
import { addFree } from './film';
import { settleAny } from './loaded';
import { occluded } from './traverse';
import { load3 } from './vec';
import { capacity, hits, paths, placeInQueue, shades, shadowHits, shadowRays } from './waveSpace';

/** Whether the light that waits at a place of the queue is of the place, for a catcher. */
// @ts-ignore
@inline export function isOfPlace(at: usize): bool {
  return (load<u32>(shades + at * SHADE.BYTES, SHADE.SCATTERINGS) & SHADE.OF_PLACE) != 0;
}
/** Whether what blocked a ray is a catcher. @param blocker its number + 1 */
// @ts-ignore
@inline function isCatcher(job: usize, blocker: u32): bool {
  const inst = <usize>load<u32>(job, JOB.INSTANCES) + <usize>(blocker - 1) * INST.BYTES;
  return (load<u32>(inst, INST.MASK) & MASK.CATCHER) != 0;
}

/**
 * Where a thing blocked light of the place, a catcher may do so, too: then that light would not be there without the
 * thing, and the catcher is said to have blocked it. rays and the hits of the scratch are free to use. Returns the
 * number of rays traced.
 */
export function meetCatchersBeyond(job: usize, scratch: usize, rays: usize, together: i32, apart: i32): u32 {
  let waiting: i32 = 0;
  let traced: u32 = 0;
  for (let i: i32 = 0; i < together + apart; i++) {
    const at = placeInQueue(i, together);
    const blocker = load<u32>(shadowHits + (at << 2));
    if (!blocker || !isOfPlace(at) || isCatcher(job, blocker)) continue;
    const ray = rays + <usize>waiting * RAY.BYTES;
    memory.copy(ray, shadowRays + at * RAY.BYTES, RAY.BYTES);
    store<u32>(ray, MASK.CATCHER, RAY.MASK);
    store<u32>(ray, <u32>at, RAY.PATH);
    store<u32>(ray, 0, RAY.MARKED);
    traced++;
    if (++waiting < capacity) continue;
    meetCatchers(job, scratch, rays, waiting);
    waiting = 0;
  }
  meetCatchers(job, scratch, rays, waiting);
  return traced;
}
function meetCatchers(job: usize, scratch: usize, rays: usize, n: i32): void {
  if (!n) return;
  occluded(load<u32>(job, JOB.ROOT), rays, hits, n, scratch + SCRATCH.SLOTS, RAY.IN_FLIGHT);
  settleAny(rays, hits, n);
  for (let i: i32 = 0; i < n; i++) {
    const met = load<u32>(hits + ((<usize>i) << 2));
    if (!met) continue;
    const ray = rays + <usize>i * RAY.BYTES;
    const at = <usize>load<u32>(ray, RAY.PATH);
    store<u32>(shadowHits + (at << 2), met);
    store<u32>(shadowRays + at * RAY.BYTES, load<u32>(ray, RAY.MARKED), RAY.MARKED);
  }
}

/** Light of the place that arrives at a catcher, or would if nothing but catchers were there. */
export function addFreeLight(job: usize, together: i32, apart: i32): void {
  for (let i: i32 = 0; i < together + apart; i++) {
    const at = placeInQueue(i, together);
    const blocker = load<u32>(shadowHits + (at << 2));
    if (!isOfPlace(at) || (blocker && isCatcher(job, blocker))) continue;
    const q = shades + at * SHADE.BYTES;
    const path = paths + <usize>load<u32>(q, SHADE.PATH) * PATH.BYTES;
    addFree(job, path, load3(q), load<u32>(q, SHADE.SCATTERINGS) & ~SHADE.OF_PLACE);
  }
}
