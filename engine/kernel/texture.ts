// Texture lookups: RGBA texels of 8 or 16 bits, bilinear, from the mip level that fits the ray's footprint, blended
// with the next coarser one.
import * as GEOM from './layout/geometry';
import * as JOB from './layout/job';
import * as LEVEL from './layout/level';
import * as TEX from './layout/texture';
import { vec } from './vec';

// @ts-ignore
@inline function wrap(i: i32, n: i32, mode: u32): i32 {
  if (mode == TEX.WRAP_CLAMP) return min<i32>(max<i32>(i, 0), n - 1);
  if (mode == TEX.WRAP_MIRROR) {
    const p = 2 * n;
    let k = i % p;
    if (k < 0) k += p;
    return k < n ? k : p - 1 - k;
  }
  const k = i % n;
  return k < 0 ? k + n : k;
}
/** sRGB to linear (IEC 61966-2-1), for 16-bit texels; 8-bit ones use the table. */
function linear(c: f32): f32 {
  return c <= <f32>0.04045 ? c * <f32>(1.0 / 12.92) : Mathf.pow((c + <f32>0.055) * <f32>(1.0 / 1.055), <f32>2.4);
}
// @ts-ignore
@inline function texel(data: usize, w: i32, x: i32, y: i32, srgb: usize, wide: bool): v128 {
  const at = <usize>y * <usize>w + <usize>x;
  if (wide) {
    const p = data + (at << 3);
    const k: f32 = 1.0 / 65535;
    const r = <f32>load<u16>(p) * k;
    const g = <f32>load<u16>(p, 2) * k;
    const b = <f32>load<u16>(p, 4) * k;
    const a = <f32>load<u16>(p, 6) * k;
    return f32x4.replace_lane(srgb ? vec(linear(r), linear(g), linear(b)) : vec(r, g, b), 3, a);
  }
  const p = load<u32>(data + (at << 2));
  if (srgb)
    return f32x4.replace_lane(
      vec(
        load<f32>(srgb + ((p & 255) << 2)),
        load<f32>(srgb + (((p >> 8) & 255) << 2)),
        load<f32>(srgb + (((p >> 16) & 255) << 2)),
      ),
      3,
      <f32>(p >> 24) * <f32>(1.0 / 255),
    );
  return f32x4.mul(
    f32x4.replace_lane(vec(<f32>(p & 255), <f32>((p >> 8) & 255), <f32>((p >> 16) & 255)), 3, <f32>(p >> 24)),
    f32x4.splat(<f32>(1.0 / 255)),
  );
}
/**
 * Number of the level that fits a footprint, of those that are kept: half the binary logarithm of the texels that the
 * footprint covers, rounded down, so never blurrier than the pixel.
 */
// @ts-ignore
@inline export function fittingLevel(use: usize, area: f32): i32 {
  const fitting = (<i32>(reinterpret<u32>(area * load<f32>(use, TEX.TEXELS)) >> 23) - 127) >> 1;
  return max<i32>(0, min<i32>(fitting - load<i32>(use, TEX.LEFT_OUT), load<i32>(use, TEX.LEVELS) - 1));
}
/**
 * Share of the next coarser level: how far the footprint has grown from that at which the fitting level is first read
 * to that at which the next one is. The logarithm is taken as straight between powers of two, which it meets at both.
 */
// @ts-ignore
@inline export function coarserShare(use: usize, area: f32): f32 {
  const bits = reinterpret<u32>(area * load<f32>(use, TEX.TEXELS));
  const exponent = <i32>(bits >> 23) - 127;
  const level = (exponent >> 1) - load<i32>(use, TEX.LEFT_OUT);
  if (level < 0 || level >= load<i32>(use, TEX.LEVELS) - 1) return 0;
  const fraction = reinterpret<f32>((bits & 0x7fffff) | 0x3f800000) - <f32>1;
  return (<f32>(exponent & 1) + fraction) * <f32>0.5;
}
/** Something was looked up that is not loaded. */
let isMissing = false;
/** Whether that was so since it was asked last: what was read then means nothing. */
export function takeMissing(): bool {
  const some = isMissing;
  isMissing = false;
  return some;
}

/**
 * Bilinear lookup at texture coordinates already transformed; half-texel centres as in glTF. area: footprint in units
 * of texture coordinates squared.
 */
function sample(job: usize, use: usize, u: f32, v: f32, area: f32): v128 {
  const level = fittingLevel(use, area);
  const share = coarserShare(use, area);
  const fine = sampleLevel(job, use, u, v, level);
  if (!(share > 0)) return fine;
  const coarse = sampleLevel(job, use, u, v, level + 1);
  return f32x4.add(fine, f32x4.mul(f32x4.sub(coarse, fine), f32x4.splat(share)));
}
function sampleLevel(job: usize, use: usize, u: f32, v: f32, level: i32): v128 {
  const flags = load<u32>(use, TEX.FLAGS);
  const wide = (flags & TEX.WIDE) != 0;
  const w = max<i32>(load<i32>(use, TEX.WIDTH) >> level, 1);
  const h = max<i32>(load<i32>(use, TEX.HEIGHT) >> level, 1);
  const data: usize = load<u32>(<usize>load<u32>(use, TEX.TABLE) + <usize>level * LEVEL.BYTES);
  if (!data) {
    isMissing = true;
    return f32x4.splat(0);
  }
  const srgb: usize = flags & TEX.SRGB && job ? <usize>load<u32>(job, JOB.SRGB_TABLE) : 0;
  const ws = (flags >> TEX.WRAP_S) & 3;
  const wt = (flags >> TEX.WRAP_T) & 3;
  const half: f32 = 0.5;
  const fx = u * <f32>w - half;
  const fy = v * <f32>h - half;
  if (!(abs<f32>(fx) < <f32>1e8 && abs<f32>(fy) < <f32>1e8)) return f32x4.splat(0);
  const flx = floor<f32>(fx);
  const fly = floor<f32>(fy);
  const ax = fx - flx;
  const ay = fy - fly;
  const x0 = wrap(<i32>flx, w, ws);
  const x1 = wrap(<i32>flx + 1, w, ws);
  const y0 = wrap(<i32>fly, h, wt);
  const y1 = wrap(<i32>fly + 1, h, wt);
  const top = f32x4.add(
    f32x4.mul(texel(data, w, x0, y0, srgb, wide), f32x4.splat(<f32>1 - ax)),
    f32x4.mul(texel(data, w, x1, y0, srgb, wide), f32x4.splat(ax)),
  );
  const bottom = f32x4.add(
    f32x4.mul(texel(data, w, x0, y1, srgb, wide), f32x4.splat(<f32>1 - ax)),
    f32x4.mul(texel(data, w, x1, y1, srgb, wide), f32x4.splat(ax)),
  );
  return f32x4.add(f32x4.mul(top, f32x4.splat(<f32>1 - ay)), f32x4.mul(bottom, f32x4.splat(ay)));
}
/**
 * RGBA of a texture use at a point of a triangle. job may be 0 where only alpha is wanted. area: square of the ray's
 * width × texture area / world area; 0 for full detail.
 */
export function lookup(
  job: usize,
  use: usize,
  geom: usize,
  i0: usize,
  i1: usize,
  i2: usize,
  u: f32,
  v: f32,
  area: f32,
): v128 {
  const flags = load<u32>(use, TEX.FLAGS);
  const uvs: usize = flags & TEX.UV1 ? load<u32>(geom, GEOM.UV1) : load<u32>(geom, GEOM.UV0);
  let s: f32 = 0;
  let t: f32 = 0;
  if (uvs) {
    const w: f32 = <f32>1 - u - v;
    s = load<f32>(uvs + (i0 << 3)) * w + load<f32>(uvs + (i1 << 3)) * u + load<f32>(uvs + (i2 << 3)) * v;
    t = load<f32>(uvs + (i0 << 3), 4) * w + load<f32>(uvs + (i1 << 3), 4) * u + load<f32>(uvs + (i2 << 3), 4) * v;
  }
  return sample(
    job,
    use,
    load<f32>(use, TEX.UV) * s + load<f32>(use, TEX.UV + 4) * t + load<f32>(use, TEX.UV + 8),
    load<f32>(use, TEX.UV + 12) * s + load<f32>(use, TEX.UV + 16) * t + load<f32>(use, TEX.UV + 20),
    area,
  );
}
