// How much detail of what stops light shows in its shadow: it is blurred by how wide the path is where light is looked
// for, and by how large the light is seen, the more the farther away what stops it stands. For evidence alone.
import * as INST from './layout/instance';
import * as RAY from './layout/ray';
import * as REF from './layout/reference';
import { inverse } from './boxes';
import { X, Y, Z, load3, vec } from './vec';

/** Exponent of a number ≥ 0, as its bits hold it. */
// @ts-ignore
@inline function exponent(x: f32): u32 {
  return (reinterpret<u32>(x) >> 23) & 255;
}
// @ts-ignore
@inline function powerOf(exponent: u32): f32 {
  return reinterpret<f32>((exponent & 255) << 23);
}

/**
 * What a shadow ray keeps of its width and of the angle under which its light is seen: of each the power of two below.
 * @param width in metres, where light is looked for @param angle in radians
 */
export function widening(width: f32, angle: f32): u32 {
  return exponent(width) | (exponent(angle) << 8);
}
/**
 * In metres, where the ray goes through the box of the mesh that stops it: how wide a shadow's detail is there that is
 * as wide as the path where light is looked for, or as blurred as the light is large. Towards a near lamp both narrow
 * down.
 * @param kept of widening()
 */
export function widthAtBlocker(kept: u32, ray: usize, inst: usize): f32 {
  goThrough(ray, inst);
  const left = <f32>1 - leaves / load<f32>(ray, RAY.TMAX); // of a sun all
  return powerOf(kept) * max<f32>(left, LEAST_LEFT) + powerOf(kept >> 8) * enters;
}
const LEAST_LEFT: f32 = 0.01;

// in metres along the ray, what goThrough() has found
let enters: f32 = 0;
let leaves: f32 = 0;

/** From where to where a ray is in the boxes of a mesh; from its origin on where no node stands above its triangles. */
function goThrough(ray: usize, inst: usize): void {
  enters = 0;
  leaves = 0;
  const root = load<u32>(inst, INST.ROOT);
  if (root & REF.MASK || !root) return;
  const c0 = load3(inst);
  const c1 = load3(inst + 16);
  const c2 = load3(inst + 32);
  const o = f32x4.add(along(ray, c0, c1, c2), load3(inst + 48));
  const i = inverse(along(ray + RAY.DIR, c0, c1, c2));
  enters = Infinity;
  for (let child: usize = 0; child < 16; child += 4) {
    const low = f32x4.mul(f32x4.sub(planes(root + child), o), i);
    const high = f32x4.mul(f32x4.sub(planes(root + child + 48), o), i);
    const first = f32x4.pmin(low, high);
    const last = f32x4.pmax(high, low);
    const near = max<f32>(max<f32>(max<f32>(X(first), Y(first)), Z(first)), 0);
    const far = min<f32>(min<f32>(min<f32>(X(last), Y(last)), Z(last)), load<f32>(ray, RAY.TMAX));
    if (!(near <= far)) continue;
    enters = min<f32>(enters, near);
    leaves = max<f32>(leaves, far);
  }
  if (!(enters < Infinity)) enters = 0;
}
/** x y z of a child's box: its least, or 48 bytes on its greatest. */
// @ts-ignore
@inline function planes(child: usize): v128 {
  return vec(load<f32>(child), load<f32>(child, 16), load<f32>(child, 32));
}
// @ts-ignore
@inline function along(v: usize, c0: v128, c1: v128, c2: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(c0, v128.load32_splat(v)), f32x4.mul(c1, v128.load32_splat(v, 4))),
    f32x4.mul(c2, v128.load32_splat(v, 8)),
  );
}
