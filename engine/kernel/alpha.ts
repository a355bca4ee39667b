// Alpha as probability: whether a ray goes through a point of a surface. Decided by a hash of the ray's seed, the
// instance's identity and how far along the ray the point is, so that it is the same whatever order the tree gives,
// however a mesh is divided and whatever else is in the scene, and the mean over samples is the coverage.
import * as GEOM from './layout/geometry';
import * as INST from './layout/instance';
import * as MAT from './layout/material';
import { geometryOf, indicesOf } from './geometry';
import { hash, unit } from './sampling';
import { lookup } from './texture';

/** Coverage 0…1 of the material at a point of a triangle. */
export function alphaAt(mat: usize, geom: usize, prim: u32, u: f32, v: f32): f32 {
  const ip = indicesOf(geom, prim);
  const i0: usize = load<u32>(ip);
  const i1: usize = load<u32>(ip, 4);
  const i2: usize = load<u32>(ip, 8);
  let alpha = load<f32>(mat, MAT.BASE + 12);
  const use: usize = load<u32>(mat, MAT.TEX_BASE);
  const colors: usize = load<u32>(geom, GEOM.COLORS);
  if (use) alpha *= f32x4.extract_lane(lookup(0, use, geom, i0, i1, i2, u, v, 0), 3);
  if (colors)
    alpha *=
      load<f32>(colors + (i0 << 4), 12) * (<f32>1 - u - v) +
      load<f32>(colors + (i1 << 4), 12) * u +
      load<f32>(colors + (i2 << 4), 12) * v;
  if (!(load<u32>(mat, MAT.FLAGS) & MAT.MASKED)) return alpha;
  return alpha >= load<f32>(mat, MAT.ALPHA_CUTOFF) ? 1 : 0;
}
/** @param t how far along the ray */
export function pierced(inst: usize, prim: u32, t: f32, u: f32, v: f32, seed: u32): bool {
  const alpha = alphaAt(load<u32>(inst, INST.MATERIAL), geometryOf(inst, prim), prim, u, v);
  if (alpha >= 1) return false;
  return !(unit(hash(seed ^ hash(load<u32>(inst, INST.IDENTITY), 0x51), reinterpret<u32>(t))) < alpha);
}
