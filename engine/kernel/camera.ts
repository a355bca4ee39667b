// Rays through the pixels of the frame. The film may hold a part of the frame; a ray depends on the place in the frame
// alone.
import * as JOB from './layout/job';
import * as MASK from './layout/mask';
import * as PATH from './layout/path';
import * as RAY from './layout/ray';
import { PI } from './microfacets';
import { random3 } from './sampling';
import { X, Y, add, dot, load3, normalize, scale, sub } from './vec';

// @ts-ignore
@inline export function putRay(
  r: usize,
  o: v128,
  tMin: f32,
  d: v128,
  tMax: f32,
  mask: u32,
  path: u32,
  seed: u32,
): void {
  v128.store(r, f32x4.replace_lane(o, 3, tMin));
  v128.store(r, f32x4.replace_lane(d, 3, tMax), RAY.DIR);
  store<u32>(r, mask, RAY.MASK);
  store<u32>(r, path, RAY.PATH);
  store<u32>(r, seed, RAY.SEED);
  store<u32>(r, 0, RAY.MARKED);
}
// @ts-ignore
@inline function tent(u: f32): f32 {
  // inverse cumulative of a tent of half-width 1: the reconstruction filter, sampled instead of splatted
  const two: f32 = 2;
  const one: f32 = 1;
  return u < <f32>0.5 ? sqrt<f32>(two * u) - one : one - sqrt<f32>(two - two * u);
}

/** Ray index of the sample of the pixel at column x, row y of the frame; path is its record's address. */
export function cameraRay(
  job: usize,
  x: u32,
  y: u32,
  seed: u32,
  sample: u32,
  ray: usize,
  index: u32,
  path: usize,
): void {
  const w = <f32>load<u32>(job, JOB.FRAME_WIDTH);
  const h = <f32>load<u32>(job, JOB.FRAME_HEIGHT);
  const one: f32 = 1;
  const two: f32 = 2;
  const half: f32 = 0.5;
  const c = job + JOB.CAMERA;
  const r = random3(seed, sample, 0);
  const sx = ((<f32>x + half + tent(X(r))) / w) * two - one + load<f32>(job, JOB.SHIFT_X);
  const sy = one - ((<f32>y + half + tent(Y(r))) / h) * two + load<f32>(job, JOB.SHIFT_Y);
  const o = load3(c);
  const right = load3(c + 16);
  const up = load3(c + 32);
  const forward = load3(c + 48);
  const near = load<f32>(c, 12);
  const far = load<f32>(c, 28);
  const lens = load<f32>(c, 44);
  const focus = load<f32>(c, 60);
  const pixel = (two * sqrt<f32>(dot(up, up))) / h;
  const across = add(scale(right, sx), scale(up, sy));
  if (load<u32>(job, JOB.ORTHO)) {
    store<f32>(path, pixel, PATH.WIDTH);
    store<f32>(path, 0, PATH.SPREAD);
    putRay(ray, add(o, across), near, forward, far, MASK.CAMERA, index, seed ^ (sample * 0x9e3779b9));
    return;
  }
  let d = add(forward, across);
  let origin = o;
  if (lens > 0) {
    const q = random3(seed, sample, 1);
    const blades = load<u32>(job, JOB.BLADES);
    let px: f32, py: f32;
    if (blades >= 3) {
      // a triangle of the polygon, then a point in it; the polygon has the area of the round aperture
      const n = <f32>blades;
      const at = X(q) * n;
      const k = floor<f32>(at);
      const u = sqrt<f32>(at - k);
      const v = Y(q);
      const step: f32 = (two * PI) / n;
      const a = load<f32>(job, JOB.BLADE_TURN) + k * step;
      const size = lens * sqrt<f32>((two * PI) / (n * Mathf.sin(step)));
      const b0 = u * (one - v) * size;
      const b1 = u * v * size;
      px = b0 * Mathf.cos(a) + b1 * Mathf.cos(a + step);
      py = b0 * Mathf.sin(a) + b1 * Mathf.sin(a + step);
    } else {
      const k = lens * sqrt<f32>(X(q));
      const phi: f32 = two * PI * Y(q);
      px = k * Mathf.cos(phi);
      py = k * Mathf.sin(phi);
    }
    const shift = add(scale(normalize(right), px), scale(normalize(up), py));
    origin = add(o, shift);
    d = sub(scale(d, focus), shift);
  }
  d = normalize(d);
  const cos = dot(d, forward); // clipping planes are at depths, not at distances
  store<f32>(path, 0, PATH.WIDTH);
  store<f32>(path, pixel * cos, PATH.SPREAD);
  putRay(ray, origin, near / cos, d, far / cos, MASK.CAMERA, index, seed ^ (sample * 0x9e3779b9));
}
