import * as HIT from './hit.ts';
import * as LIGHT from './light.ts';
import * as RAY from './ray.ts';

// Per-thread scratch: ray slots, the surface record, weights of lights, what the thread says of itself; then the space
// of a wave (wave.ts), then evidence
export const SLOTS = 0;
export const SURFACE = SLOTS + RAY.SLOT_BYTES * (RAY.IN_FLIGHT + 1);
export const SURFACE_BYTES = 768;
export const WEIGHTS = SURFACE + SURFACE_BYTES; // f32 × LIGHT.WEIGHED
/** Atomic: not 0 while the thread renders. */
export const RUNNING = WEIGHTS + 4 * LIGHT.WEIGHED;
/** Atomic: 1 more than the job's LOADS at which the thread stands still. */
export const STANDS = RUNNING + 4;
/** Atomic: how many stages the thread has done. */
export const STAGES = RUNNING + 8;
/** Rays that go again, with what they meet. */
export const AGAIN = 120;
export const RAYS_AGAIN = RUNNING + 64;
export const HITS_AGAIN = RAYS_AGAIN + AGAIN * RAY.BYTES;
export const BYTES = HITS_AGAIN + AGAIN * HIT.BYTES;
