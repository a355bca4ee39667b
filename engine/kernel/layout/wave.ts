import * as HIT from './hit.ts';
import * as PATH from './path.ts';
import * as RAY from './ray.ts';
import * as SHADE from './shade.ts';

// Space of a wave of n paths, in bytes × n from where it begins: two ray queues, hits, paths, shadow rays, shadow
// contributions, shadow results; two shadow rays a path
export const RAYS_A = 0;
export const RAYS_B = RAYS_A + RAY.BYTES;
export const HITS = RAYS_B + RAY.BYTES;
export const PATHS = HITS + HIT.BYTES;
export const SHADOW_RAYS = PATHS + PATH.BYTES;
export const SHADES = SHADOW_RAYS + RAY.BYTES * 2;
export const SHADOW_HITS = SHADES + SHADE.BYTES * 2;
export const BYTES = SHADOW_HITS + 4 * 2;
