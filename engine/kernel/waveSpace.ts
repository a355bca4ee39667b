// Where the parts of a thread's wave lie. Each thread has its own.
import * as JOB from './layout/job';
import * as SCRATCH from './layout/scratch';
import * as WAVE from './layout/wave';

/** Paths of a wave, at most. */
export let capacity: i32 = 0;
export let raysA: usize = 0;
export let raysB: usize = 0;
export let hits: usize = 0;
export let paths: usize = 0;
/** Places for two a path. */
export let shadowRays: usize = 0;
export let shades: usize = 0;
export let shadowHits: usize = 0;

/**
 * Where the shadow ray is that was queued as the i-th of those that go together, or after all of them as one of those
 * that go apart: these stand at the end.
 */
// @ts-ignore
@inline export function placeInQueue(i: i32, together: i32): usize {
  return <usize>(i < together ? i : 2 * capacity - 1 - (i - together));
}

export function placeWave(job: usize, scratch: usize): void {
  const n = <usize>load<u32>(job, JOB.WAVE_PATHS);
  const at = scratch + SCRATCH.BYTES;
  capacity = <i32>n;
  raysA = at + n * WAVE.RAYS_A;
  raysB = at + n * WAVE.RAYS_B;
  hits = at + n * WAVE.HITS;
  paths = at + n * WAVE.PATHS;
  shadowRays = at + n * WAVE.SHADOW_RAYS;
  shades = at + n * WAVE.SHADES;
  shadowHits = at + n * WAVE.SHADOW_HITS;
}
