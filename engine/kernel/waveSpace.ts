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
