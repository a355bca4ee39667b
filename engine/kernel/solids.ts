// Solids, as glass and what is in it: which of them a path is in, where one ends at another, what they take of its
// light. They may overlap, as a drink does with the glass that holds it: there the one of the highest priority is
// alone, and of the same priority the one that was entered last. A surface within one that is there alone is not met
// (after Schmidt and Budge, "Simple Nested Dielectrics in Ray Traced Images", Journal of Graphics Tools 7(2), 2002).
import * as MAT from './layout/material';
import * as PATH from './layout/path';
import * as SURFACE from './record';
import { prepare } from './bsdf';
import { load3, neg, scale, store3, vec } from './vec';

/** In the place of what is around a solid: its surface is not there. */
export const HIDDEN: usize = 1;
/** Refraction between indices that are closer than this bends nothing and has no half vector. */
const LEAST_STEP: f32 = 0.001;

// @ts-ignore
@inline function priorityOf(mat: usize): f32 {
  return load<f32>(mat, MAT.PRIORITY);
}
// @ts-ignore
@inline function place(path: usize, k: i32): usize {
  return path + PATH.SOLIDS + ((<usize>k) << 2);
}

export function enterNone(path: usize): void {
  for (let k = 0; k < PATH.SOLIDS_KNOWN; k++) store<u32>(place(path, k), 0);
}
/** @param but a solid that does not count, once; 0: all do @returns the material, 0 where the path is in none */
export function solidIn(path: usize, but: usize = 0): usize {
  let found: usize = 0;
  for (let k = 0; k < PATH.SOLIDS_KNOWN; k++) {
    const mat: usize = load<u32>(place(path, k));
    if (!mat) return found;
    if (mat == but) but = 0;
    else if (!found || priorityOf(mat) > priorityOf(found)) found = mat;
  }
  return found;
}

/**
 * What is on the outer side of the surface of a solid that a path meets: a material, 0 for air, or HIDDEN.
 * @param front whether the path comes from there
 */
export function aroundSolid(path: usize, mat: usize, front: bool): usize {
  const there = solidIn(path);
  if (!there) return 0;
  if (front) return there == mat || priorityOf(there) > priorityOf(mat) ? HIDDEN : there;
  if (there != mat) return priorityOf(there) >= priorityOf(mat) ? HIDDEN : there; // of a path that began in mat
  const outer = solidIn(path, mat);
  return outer == mat ? HIDDEN : outer;
}

/**
 * The solid that a path goes through before it meets the surface of another: without one that it has entered, as where
 * the camera stands in it, that whose inner side it meets.
 * @param mat the surface's material @param front whether its outer side is met
 */
export function solidBefore(path: usize, mat: usize, front: bool): usize {
  const there = solidIn(path);
  if (front || !(load<u32>(mat, MAT.FLAGS) & MAT.SOLID)) return there;
  return !there || priorityOf(mat) > priorityOf(there) ? mat : there;
}

/**
 * A path that crosses the surface of a solid is in it from there on, or no longer. Of more than are known, the first is
 * forgotten.
 */
export function crossSolid(path: usize, mat: usize, front: bool): void {
  if (front) {
    for (let k = PATH.SOLIDS_KNOWN - 1; k > 0; k--) store<u32>(place(path, k), load<u32>(place(path, k - 1)));
    store<u32>(place(path, 0), <u32>mat);
    return;
  }
  let k = 0;
  while (k < PATH.SOLIDS_KNOWN && load<u32>(place(path, k)) != <u32>mat) k++;
  if (k == PATH.SOLIDS_KNOWN) return;
  for (; k < PATH.SOLIDS_KNOWN - 1; k++) store<u32>(place(path, k), load<u32>(place(path, k + 1)));
  store<u32>(place(path, k), 0);
}

/** Share of light left after metres inside a solid (Beer–Lambert). */
export function transmittance(mat: usize, metres: f32): v128 {
  return vec(
    Mathf.exp(-load<f32>(mat, MAT.ATTENUATION) * metres),
    Mathf.exp(-load<f32>(mat, MAT.ATTENUATION + 4) * metres),
    Mathf.exp(-load<f32>(mat, MAT.ATTENUATION + 8) * metres),
  );
}

/** The surface of a solid with another one around it reflects and bends by the ratio of their indices. */
export function immerse(job: usize, S: usize, around: usize, d: v128): void {
  const one: f32 = 1;
  const own = load<f32>(load<u32>(S, SURFACE.MATERIAL), MAT.IOR);
  const outer = load<f32>(around, MAT.IOR);
  let ratio = own / outer;
  if (abs<f32>(ratio - one) < LEAST_STEP) ratio = one + LEAST_STEP;
  const r0 = (ratio - one) / (ratio + one);
  const alone = (own - one) / (own + one);
  const tinted =
    alone > 0
      ? scale(load3(S + SURFACE.SPECULAR_F0), (r0 * r0) / (alone * alone))
      : scale(vec(1, 1, 1), r0 * r0 * load<f32>(S, SURFACE.SPECULAR));
  store3(S + SURFACE.SPECULAR_F0, f32x4.pmin(tinted, vec(1, 1, 1)));
  store<f32>(S, load<i32>(S, SURFACE.FRONT) ? one / ratio : ratio, SURFACE.ETA);
  store<i32>(S, 1, SURFACE.IMMERSED);
  prepare(job, S, neg(d));
}
