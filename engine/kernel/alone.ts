// Meets one ray with the hierarchy at a time, its numbers held in registers: for rays that go much the same way, whose
// nodes are in the cache anyway. Scattered rays go several at a time (traverse.ts), since for them memory is the cost.
// What was tried: ray state that changes within the loop when an instance is entered (0.62 of the reference on camera
// rays); one function a level, so that it is constant (0.9 and more).
import * as INST from './layout/instance';
import * as NODE from './layout/node';
import * as REF from './layout/reference';
import { reach } from './geometry';
import { FIRST, inverse, pushAny, pushNearest, slabs } from './boxes';
import { NONE, blocksAny, blocksClosest } from './traverse';

// Memory at base: lanes to work in (64 B), then the stack of 8-byte entries (reference, entry distance).
const STACK: usize = 64;
/** Bytes of stack that a level may need. */
export const ALONE_BYTES: usize = 2560;

// @ts-ignore
@inline function walk(
  top: bool,
  ref: u32,
  ox: v128,
  oy: v128,
  oz: v128,
  dx: v128,
  dy: v128,
  dz: v128,
  tMin: v128,
  best: f32,
  mask: u32,
  inst: u32,
  h: usize,
  ray: usize,
  base: usize,
): f32 {
  const ix = inverse(dx);
  const iy = inverse(dy);
  const iz = inverse(dz);
  let sp = base + STACK;
  store<u32>(sp, REF.END);
  store<i32>(sp, FIRST, 4);
  while (true) {
    if (!(ref & REF.MASK)) sp = pushNearest(sp, ref, slabs(true, ref, ox, oy, oz, ix, iy, iz, f32x4.splat(best)));
    else if (top && (ref & REF.MASK) == REF.INSTANCE) {
      const i: usize = ref & ~REF.MASK;
      if (load<u32>(i, INST.MASK) & 255 & mask) {
        reach(i);
        best = enterClosest(i, ox, oy, oz, dx, dy, dz, tMin, best, h, ray, base + ALONE_BYTES);
      }
    } else best = blocksClosest(ref, ox, oy, oz, dx, dy, dz, tMin, best, inst, h, ray, base);
    const within = reinterpret<i32>(best);
    while (load<i32>(sp, 4) > within) sp -= 8;
    ref = load<u32>(sp);
    sp -= 8;
    if (ref == REF.END) return best;
  }
}
function meshClosest(
  root: u32,
  ox: v128,
  oy: v128,
  oz: v128,
  dx: v128,
  dy: v128,
  dz: v128,
  tMin: v128,
  best: f32,
  inst: u32,
  h: usize,
  ray: usize,
  base: usize,
): f32 {
  return walk(false, root, ox, oy, oz, dx, dy, dz, tMin, best, 0, inst, h, ray, base);
}
/**
 * Origin or direction of a ray in an instance's space. The order of operations is that of traverse.ts, so that the same
 * numbers come out.
 */
// @ts-ignore
@inline function toObject(i: usize, x: v128, y: v128, z: v128, point: bool): v128 {
  // the columns' fourth lanes hold integers, which as floats are denormals: they must not be multiplied
  const c0 = f32x4.replace_lane(v128.load(i), 3, 0);
  const c1 = f32x4.replace_lane(v128.load(i, 16), 3, 0);
  const c2 = f32x4.replace_lane(v128.load(i, 32), 3, 0);
  return point
    ? f32x4.add(f32x4.add(f32x4.mul(c0, x), f32x4.mul(c1, y)), f32x4.add(f32x4.mul(c2, z), v128.load(i, 48)))
    : f32x4.add(f32x4.add(f32x4.mul(c0, x), f32x4.mul(c1, y)), f32x4.mul(c2, z));
}
// @ts-ignore
@inline function lane(v: v128, k: u8): v128 {
  if (k == 0) return v128.shuffle<u32>(v, v, 0, 0, 0, 0);
  if (k == 1) return v128.shuffle<u32>(v, v, 1, 1, 1, 1);
  return v128.shuffle<u32>(v, v, 2, 2, 2, 2);
}
function enterClosest(
  i: usize,
  ox: v128,
  oy: v128,
  oz: v128,
  dx: v128,
  dy: v128,
  dz: v128,
  tMin: v128,
  best: f32,
  h: usize,
  ray: usize,
  base: usize,
): f32 {
  const o = toObject(i, ox, oy, oz, true);
  const d = toObject(i, dx, dy, dz, false);
  return meshClosest(
    load<u32>(i, INST.ROOT),
    lane(o, 0),
    lane(o, 1),
    lane(o, 2),
    lane(d, 0),
    lane(d, 1),
    lane(d, 2),
    tMin,
    best,
    <u32>i,
    h,
    ray,
    base,
  );
}
/**
 * Nearest hit at or below reference ref, within best, of a ray in the space that ref belongs to (an instance's, or the
 * world's where inst is NONE).
 */
export function closestAlone(
  ref: u32,
  ox: v128,
  oy: v128,
  oz: v128,
  dx: v128,
  dy: v128,
  dz: v128,
  tMin: v128,
  best: f32,
  mask: u32,
  inst: u32,
  h: usize,
  ray: usize,
  base: usize,
): f32 {
  // stands first: the compiler cannot inline walk while it inlines walk
  if (inst != NONE) return meshClosest(ref, ox, oy, oz, dx, dy, dz, tMin, best, inst, h, ray, base);
  return walk(true, ref, ox, oy, oz, dx, dy, dz, tMin, best, mask, NONE, h, ray, base);
}

// @ts-ignore
@inline function search(
  top: bool,
  ref: u32,
  ox: v128,
  oy: v128,
  oz: v128,
  dx: v128,
  dy: v128,
  dz: v128,
  tMin: v128,
  best: v128,
  mask: u32,
  inst: u32,
  ray: usize,
  base: usize,
): i32 {
  const ix = inverse(dx);
  const iy = inverse(dy);
  const iz = inverse(dz);
  let sp = base + STACK;
  store<u32>(sp, REF.END);
  while (true) {
    if (!(ref & REF.MASK)) sp = pushAny(sp, v128.load(ref, NODE.REF), slabs(false, ref, ox, oy, oz, ix, iy, iz, best));
    else {
      let found: i32 = 0;
      if (top && (ref & REF.MASK) == REF.INSTANCE) {
        const i: usize = ref & ~REF.MASK;
        if (load<u32>(i, INST.MASK) & 255 & mask) {
          reach(i);
          found = enterOccluded(i, ox, oy, oz, dx, dy, dz, tMin, best, ray, base + ALONE_BYTES);
        }
      } else found = blocksAny(ref, ox, oy, oz, dx, dy, dz, tMin, best, inst, ray, base);
      if (found) return found;
    }
    ref = load<u32>(sp);
    sp -= 4;
    if (ref == REF.END) return 0;
  }
}
function meshOccluded(
  root: u32,
  ox: v128,
  oy: v128,
  oz: v128,
  dx: v128,
  dy: v128,
  dz: v128,
  tMin: v128,
  best: v128,
  inst: u32,
  ray: usize,
  base: usize,
): i32 {
  return search(false, root, ox, oy, oz, dx, dy, dz, tMin, best, 0, inst, ray, base);
}
function enterOccluded(
  i: usize,
  ox: v128,
  oy: v128,
  oz: v128,
  dx: v128,
  dy: v128,
  dz: v128,
  tMin: v128,
  best: v128,
  ray: usize,
  base: usize,
): i32 {
  const o = toObject(i, ox, oy, oz, true);
  const d = toObject(i, dx, dy, dz, false);
  return meshOccluded(
    load<u32>(i, INST.ROOT),
    lane(o, 0),
    lane(o, 1),
    lane(o, 2),
    lane(d, 0),
    lane(d, 1),
    lane(d, 2),
    tMin,
    best,
    <u32>i,
    ray,
    base,
  );
}
/** Number + 1 of an instance in (tMin, best) of a ray at or below ref, or 0. */
export function occludedAlone(
  ref: u32,
  ox: v128,
  oy: v128,
  oz: v128,
  dx: v128,
  dy: v128,
  dz: v128,
  tMin: v128,
  best: v128,
  mask: u32,
  inst: u32,
  ray: usize,
  base: usize,
): i32 {
  if (inst != NONE) return meshOccluded(ref, ox, oy, oz, dx, dy, dz, tMin, best, inst, ray, base);
  return search(true, ref, ox, oy, oz, dx, dy, dz, tMin, best, mask, NONE, ray, base);
}
