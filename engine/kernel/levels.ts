// Levels of textures that are not loaded before something looks at them. Where a surface looks up one that is not
// there, its shading is given up, what all surfaces from there on will look up is asked for, and it is shaded again: no
// lookup that counts ever sees a coarser level than the one that fits. Asking before every stage, missing or not, took
// a fifteenth of the time.
//
// Always there is what is looked up in full while rays are traced or lights are picked: alpha, what glows, panes (the
// host's storableTextures).
import * as HIT from './layout/hit';
import * as INST from './layout/instance';
import * as JOB from './layout/job';
import * as LEVEL from './layout/level';
import * as MAT from './layout/material';
import * as PATH from './layout/path';
import * as RAY from './layout/ray';
import * as TEX from './layout/texture';
import { footprint } from './surface';
import { coarserShare, fittingLevel } from './texture';
import { paths } from './waveSpace';

const NO_HIT: u32 = 0xffffffff;

/** Asks for what the surfaces at n hits of paths will look up. Returns whether some of it is not there. */
export function wantLevels(job: usize, rays: usize, hits: usize, n: i32): bool {
  if (!load<u32>(job, JOB.BY_LEVEL)) return false;
  const instances: usize = load<u32>(job, JOB.INSTANCES);
  let isMissing = false;
  for (let i: i32 = 0; i < n; i++) {
    const hit = hits + <usize>i * HIT.BYTES;
    const number = load<u32>(hit, HIT.INST);
    if (number == NO_HIT) continue;
    const inst = instances + <usize>number * INST.BYTES;
    const mat: usize = load<u32>(inst, INST.MATERIAL);
    const uses = load<u32>(mat, MAT.USES_BY_LEVEL);
    if (!uses) continue;
    const path = paths + <usize>load<u32>(rays + <usize>i * RAY.BYTES, RAY.PATH) * PATH.BYTES;
    const area = footprint(hit, inst, load<f32>(path, PATH.WIDTH) + load<f32>(path, PATH.SPREAD) * load<f32>(hit));
    const isCounted = i % LEVEL.USED_EVERY == 0;
    const first: usize = load<u32>(mat, MAT.USES);
    for (let k: u32 = 0; k < uses; k++) {
      if (!wantLevel(first + <usize>k * TEX.BYTES, area, isCounted)) isMissing = true;
    }
  }
  return isMissing;
}

/** The level that fits and, where they are blended, the next coarser one. Returns whether they are there. */
// @ts-ignore
@inline function wantLevel(use: usize, area: f32, isCounted: bool): bool {
  const level = <usize>load<u32>(use, TEX.TABLE) + <usize>fittingLevel(use, area) * LEVEL.BYTES;
  const isThere = want(level, isCounted);
  return coarserShare(use, area) > 0 ? want(level + LEVEL.BYTES, isCounted) && isThere : isThere;
}
// @ts-ignore
@inline function want(level: usize, isCounted: bool): bool {
  if (isCounted) store<u32>(level, load<u32>(level, LEVEL.USED) + 1, LEVEL.USED);
  if (load<u32>(level)) return true;
  store<u32>(level, 1, LEVEL.WANTED);
  return false;
}
