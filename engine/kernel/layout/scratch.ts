import * as HIT from './hit.ts';
import * as LIGHT from './light.ts';
import * as PATH from './path.ts';
import * as RAY from './ray.ts';
import * as SHADE from './shade.ts';
import * as TILE from './tile.ts';

// Per-thread scratch: ray slots, then two ray queues, hits, paths, shadow rays, shadow contributions, shadow results
export const SLOTS = 0;
export const RAYS_A = SLOTS + RAY.SLOT_BYTES * (RAY.IN_FLIGHT + 1);
export const RAYS_B = RAYS_A + RAY.BYTES * TILE.WAVE_PATHS;
export const HITS = RAYS_B + RAY.BYTES * TILE.WAVE_PATHS;
export const PATHS = HITS + HIT.BYTES * TILE.WAVE_PATHS;
export const SHADOW_RAYS = PATHS + PATH.BYTES * TILE.WAVE_PATHS;
export const SHADES = SHADOW_RAYS + RAY.BYTES * TILE.WAVE_PATHS * 2;
export const SHADOW_HITS = SHADES + SHADE.BYTES * TILE.WAVE_PATHS * 2;
export const SURFACE = SHADOW_HITS + 4 * TILE.WAVE_PATHS * 2;
export const SURFACE_BYTES = 768;
export const WEIGHTS = SURFACE + SURFACE_BYTES; // f32 × LIGHT.WEIGHED
/** Atomic: not 0 while the thread renders. */
export const RUNNING = WEIGHTS + 4 * LIGHT.WEIGHED;
/** Atomic: 1 more than the job's LOADS at which the thread stands still. */
export const STANDS = RUNNING + 4;
/** Atomic: how many stages the thread has done. */
export const STAGES = RUNNING + 8;
export const BYTES = RUNNING + 16;
