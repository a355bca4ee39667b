// Where light and what the camera sees are added up: the picture, and the planes that were asked for. A pixel belongs
// to one tile, a tile to one thread, and its samples come in order, so sums depend on nothing else.
import * as GEOM from './layout/geometry';
import * as HIT from './layout/hit';
import * as INST from './layout/instance';
import * as JOB from './layout/job';
import * as MAT from './layout/material';
import * as NEXT from './layout/next';
import * as PATH from './layout/path';
import * as PLANE from './layout/plane';
import * as TILE from './layout/tile';
import * as SURFACE from './record';
import { addDoubtful } from './leftOut';
import { X, Y, Z, add, dot, load3, luminance, maxOf, mul, scale, store3, sub, vec } from './vec';

// @ts-ignore
@inline function plane(job: usize, k: usize): usize {
  return load<u32>(job + (k << 2), JOB.PLANES);
}
// @ts-ignore
@inline function add3(p: usize, pixel: u32, c: v128): void {
  const q = p + <usize>pixel * 12;
  store3(q, add(load3(q), c));
}

/**
 * Light found after so many scatterings (0: seen directly) is added to its path and to the planes.
 * @param passed stub of what is left out that this light alone came through; 0: none @param isOfPlace it
 * reached a shadow catcher from the place that this stands for, and is no light of the scene's things
 */
export function addRadiance(
  job: usize,
  path: usize,
  found: v128,
  scatterings: u32,
  group: u32,
  passed: u32 = 0,
  isOfPlace: bool = false,
): void {
  const parts = load<u32>(job, JOB.PARTS);
  const part = min<u32>(group, parts - 1);
  const limit = parts
    ? load<f32>(<usize>load<u32>(job, JOB.PART_CLAMPS) + ((<usize>part) << 2))
    : load<f32>(job, JOB.CLAMP);
  const pixel = load<u32>(path, PATH.PIXEL);
  if (!isLight(found)) return;
  const c = limited(found, scatterings, limit);
  store3(path + PATH.RADIANCE, add(load3(path + PATH.RADIANCE), c));
  const before = load<u32>(path, PATH.PASSED);
  if (before | passed) addDoubtful(job, path, before ? before : passed, c);
  if (parts) {
    addToPart(job, part, pixel, c, scatterings, (load<u32>(path, PATH.SAMPLE) & 1) == 0);
    return; // planes of light are mixed of its parts
  }
  if (isOfPlace) {
    addToLayer(job, PLANE.CAUGHT, CAUGHT_LIT, pixel, c);
    return; // it is in the plate already
  }
  if (load<u32>(path, PATH.FLAGS) & PATH.CAUGHT) addToLayer(job, PLANE.CAUGHT, CAUGHT_SENT, pixel, c);
  let p = plane(job, PLANE.INDIRECT);
  if (scatterings == 0) p = plane(job, PLANE.EMISSION);
  else if (scatterings == 1) p = plane(job, PLANE.DIRECT);
  if (p) add3(p, pixel, c);
  if (group < load<u32>(job, JOB.GROUPS)) {
    addToLayer(job, PLANE.GROUPS, group, pixel, c);
    if (scatterings == 0) addToLayer(job, PLANE.GROUPS_EMISSION, group, pixel, c);
  }
}
// layers of PLANE.CAUGHT
const CAUGHT_LIT: u32 = 0;
const CAUGHT_FREE: u32 = 1;
const CAUGHT_SENT: u32 = 2;
/** Light of the place that would reach a shadow catcher if nothing but catchers were there. As addRadiance(). */
export function addFree(job: usize, path: usize, found: v128, scatterings: u32): void {
  if (isLight(found))
    addToLayer(
      job,
      PLANE.CAUGHT,
      CAUGHT_FREE,
      load<u32>(path, PATH.PIXEL),
      limited(found, scatterings, load<f32>(job, JOB.CLAMP)),
    );
}
/** What the camera would see without a shadow catcher, and the share of its path's pixel that the catcher is. */
export function addBehind(job: usize, path: usize, light: v128, share: f32): void {
  const p = plane(job, PLANE.BEHIND) + ((<usize>load<u32>(path, PATH.PIXEL)) << 4);
  v128.store(p, f32x4.add(v128.load(p), f32x4.replace_lane(light, 3, share)));
}
// @ts-ignore
@inline function isLight(c: v128): bool {
  const m = maxOf(c);
  return m < Infinity && m >= 0;
}
// @ts-ignore
@inline function limited(c: v128, scatterings: u32, limit: f32): v128 {
  const m = maxOf(c);
  return limit > 0 && m > limit && scatterings > 1 ? scale(c, limit / m) : c;
}
function addToPart(job: usize, part: u32, pixel: u32, c: v128, scatterings: u32, isOfHalf: bool): void {
  addToLayer(job, PLANE.PARTS, part, pixel, c);
  if (isOfHalf) addToLayer(job, PLANE.PARTS_HALF, part, pixel, c);
  if (scatterings == 0) addToLayer(job, PLANE.PARTS_EMISSION, part, pixel, c);
  if (scatterings == 1) addToLayer(job, PLANE.PARTS_DIRECT, part, pixel, c);
}
/** To one of the layers of a plane that has several, where it is kept. */
// @ts-ignore
@inline function addToLayer(job: usize, k: usize, layer: u32, pixel: u32, c: v128): void {
  const p = plane(job, k);
  if (p) add3(p + <usize>layer * layerBytes(job), pixel, c);
}
// @ts-ignore
@inline function layerBytes(job: usize): usize {
  return <usize>load<u32>(job, JOB.WIDTH) * <usize>load<u32>(job, JOB.HEIGHT) * 12;
}

/** Adds weight 1 for an id to a pixel's ranks; where all are taken by others the sample is left out. */
function addId(p: usize, pixel: u32, id: f32): void {
  let q = p + <usize>pixel * (PLANE.CRYPTO_RANKS * 8);
  for (let i: i32 = 0; i < PLANE.CRYPTO_RANKS; i++, q += 8) {
    const weight = load<f32>(q, 4);
    if (weight == 0 || load<u32>(q) == reinterpret<u32>(id)) {
      store<f32>(q, id);
      store<f32>(q, weight + <f32>1, 4);
      return;
    }
  }
}
/** Reflectance of the surface in S, all lobes together, as the albedo plane shows it. */
function reflects(S: usize): v128 {
  const metallic = load<f32>(S, SURFACE.METALLIC);
  const one: f32 = 1;
  const F0 = load3(S + SURFACE.SPECULAR_F0);
  const base = load3(S + SURFACE.BASE);
  const T = load<f32>(S, SURFACE.TRANSMISSION);
  return add(scale(base, one - T), add(scale(F0, one - metallic), scale(vec(1, 1, 1), T)));
}
/**
 * Place on the frame of a world point through the camera record at c: pixels right and down from the middle, but for
 * lens shift, which stays the same.
 */
function projected(job: usize, c: usize, p: v128): v128 {
  const right = load3(c + 16);
  const up = load3(c + 32);
  const d = sub(p, load3(c));
  const half: f32 = 0.5;
  const z: f32 = load<u32>(job, JOB.ORTHO) ? 1 : max<f32>(dot(d, load3(c + 48)), <f32>1e-6);
  return vec(
    (dot(d, right) / (dot(right, right) * z)) * half * <f32>load<u32>(job, JOB.FRAME_WIDTH),
    (-dot(d, up) / (dot(up, up) * z)) * half * <f32>load<u32>(job, JOB.FRAME_HEIGHT),
    0,
  );
}
/** Where what was hit will be at the next frame: the point of its triangle then. */
function nextPosition(job: usize, hit: usize, inst: usize, now: v128): v128 {
  const n = <usize>load<u32>(job, JOB.NEXT) + <usize>load<u32>(hit, HIT.INST) * NEXT.BYTES;
  const positions: usize = load<u32>(n, NEXT.POSITIONS);
  const u = load<f32>(hit, HIT.U);
  const v = load<f32>(hit, HIT.V);
  const one: f32 = 1;
  if (!load<u32>(n, NEXT.MOVES)) return now;
  let p: v128;
  if (positions) {
    const at = <usize>load<u32>(load<u32>(inst, INST.GEOMETRY), GEOM.INDICES) + <usize>load<u32>(hit, HIT.PRIM) * 12;
    p = add(
      add(
        scale(load3(positions + <usize>load<u32>(at) * 12), one - u - v),
        scale(load3(positions + <usize>load<u32>(at, 4) * 12), u),
      ),
      scale(load3(positions + <usize>load<u32>(at, 8) * 12), v),
    );
  } else {
    const block: usize = load<u32>(hit, HIT.BLOCK);
    const q = (block & ~3) + ((block & 3) << 2);
    p = add(
      vec(load<f32>(q), load<f32>(q, 16), load<f32>(q, 32)),
      add(
        scale(vec(load<f32>(q, 48), load<f32>(q, 64), load<f32>(q, 80)), u),
        scale(vec(load<f32>(q, 96), load<f32>(q, 112), load<f32>(q, 128)), v),
      ),
    );
  }
  return add(add(scale(load3(n), X(p)), scale(load3(n + 12), Y(p))), add(scale(load3(n + 24), Z(p)), load3(n + 36)));
}
/** What the camera's ray met first. depth: m along the viewing direction. */
export function addFirstHit(job: usize, path: usize, S: usize, hit: usize, inst: usize, depth: f32): void {
  const pixel = load<u32>(path, PATH.PIXEL);
  let p = plane(job, PLANE.DEPTH);
  if (p) {
    const q = p + ((<usize>pixel) << 2);
    store<f32>(q, load<f32>(q) + depth);
  }
  p = plane(job, PLANE.MOTION);
  if (p) {
    const at = load3(S + SURFACE.POSITION);
    const m = sub(
      projected(job, job + JOB.NEXT_CAMERA, nextPosition(job, hit, inst, at)),
      projected(job, job + JOB.CAMERA, at),
    );
    const q = p + ((<usize>pixel) << 3);
    store<f32>(q, load<f32>(q) + X(m));
    store<f32>(q, load<f32>(q, 4) + Y(m), 4);
  }
  p = plane(job, PLANE.POSITION);
  if (p) add3(p, pixel, load3(S + SURFACE.POSITION));
  p = plane(job, PLANE.NORMAL);
  if (p) add3(p, pixel, load3(S + SURFACE.NORMAL));
  p = plane(job, PLANE.GEOMETRIC);
  if (p) add3(p, pixel, load3(S + SURFACE.GEOMETRIC));
  p = plane(job, PLANE.ALBEDO);
  // its parts are told apart by angle, which this layer does not know: together they may seem a little more than all
  if (p) add3(p, pixel, f32x4.min(reflects(S), f32x4.splat(1)));
  p = plane(job, PLANE.OBJECTS);
  if (p) addId(p, pixel, load<f32>(inst, INST.OBJECT));
  p = plane(job, PLANE.MATERIALS);
  if (p) addId(p, pixel, load<f32>(load<u32>(S, SURFACE.MATERIAL), MAT.ID));
}
/** What the camera's ray met where it is fog before the sky: it has a place, and no surface. */
export function addFogHit(job: usize, path: usize, S: usize, depth: f32): void {
  const pixel = load<u32>(path, PATH.PIXEL);
  const z = plane(job, PLANE.DEPTH);
  const at = plane(job, PLANE.POSITION);
  if (z) {
    const q = z + ((<usize>pixel) << 2);
    store<f32>(q, load<f32>(q) + depth);
  }
  if (at) add3(at, pixel, load3(S + SURFACE.POSITION));
}
/**
 * Roughness width from which a surface guides the denoiser itself; smoother ones let what is seen in or through them do
 * so.
 */
const GUIDES: f32 = 0.02;
/** Guides of the denoiser at a hit: written once a path. */
export function addGuides(job: usize, path: usize, S: usize, last: bool): void {
  const a = plane(job, PLANE.GUIDE_ALBEDO);
  const n = plane(job, PLANE.GUIDE_NORMAL);
  const flags = load<u32>(path, PATH.FLAGS);
  if (!a || flags & PATH.GUIDED) return;
  const smooth =
    load<f32>(S, SURFACE.SHARP) < GUIDES &&
    (load<f32>(S, SURFACE.TRANSMISSION) > <f32>0.5 || load<f32>(S, SURFACE.METALLIC) > <f32>0.5);
  const through = load3(path + PATH.GUIDE);
  if (smooth && !last) {
    store3(path + PATH.GUIDE, mul(through, load3(S + SURFACE.BASE)));
    return;
  }
  store<u32>(path, flags | PATH.GUIDED, PATH.FLAGS);
  const pixel = load<u32>(path, PATH.PIXEL);
  add3(a, pixel, mul(through, reflects(S)));
  add3(n, pixel, load3(S + SURFACE.NORMAL));
}
/** Guides of a path that left the scene through glass or by a mirror. */
export function addSkyGuides(job: usize, path: usize): void {
  const a = plane(job, PLANE.GUIDE_ALBEDO);
  const flags = load<u32>(path, PATH.FLAGS);
  if (!a || flags & PATH.GUIDED) return;
  store<u32>(path, flags | PATH.GUIDED, PATH.FLAGS);
  add3(a, load<u32>(path, PATH.PIXEL), load3(path + PATH.GUIDE));
}
/** A finished path into its pixel. */
export function addPath(job: usize, path: usize): void {
  const pixel = load<u32>(path, PATH.PIXEL);
  const c = load3(path + PATH.RADIANCE);
  const q = <usize>load<u32>(job, JOB.FILM) + ((<usize>pixel) << 4);
  const moments = plane(job, PLANE.MOMENT);
  v128.store(q, f32x4.add(v128.load(q), f32x4.replace_lane(c, 3, load<f32>(path, PATH.COVERED))));
  if (moments && !load<u32>(job, JOB.PARTS)) add3(moments, pixel, mul(c, c));
}
/**
 * Whether the relative noise of a tile after n samples is below the threshold: root mean square over pixels of standard
 * error / (luminance + floor). Asked at fixed sample numbers only, so that every way to n gives the same film.
 */
export function isQuiet(job: usize, x0: i32, y0: i32, tw: i32, th: i32, n: i32): bool {
  const limit = load<f32>(job, JOB.NOISE);
  const floor: f64 = load<f32>(job, JOB.NOISE_FLOOR);
  const film: usize = load<u32>(job, JOB.FILM);
  const moments = plane(job, PLANE.MOMENT);
  const w = load<i32>(job, JOB.WIDTH);
  if (!(limit > 0) || !moments || n < TILE.JUDGED_FROM || n % TILE.JUDGED_EVERY != 0) return false;
  const mixes = load<i32>(job, JOB.MIXES);
  if (mixes) {
    for (let k: i32 = 0; k < mixes; k++) if (!isMixQuiet(job, k, x0, y0, tw, th, n)) return false;
    return true;
  }
  let sum: f64 = 0;
  for (let y = y0; y < y0 + th; y++)
    for (let x = x0; x < x0 + tw; x++) {
      const pixel = <usize>(y * w + x);
      const c = scale(load3(film + (pixel << 4)), <f32>1 / <f32>n);
      const m = sub(scale(load3(moments + pixel * 12), <f32>1 / <f32>n), mul(c, c));
      const error: f64 = luminance(f32x4.sqrt(f32x4.replace_lane(f32x4.max(m, f32x4.splat(0)), 3, 0)));
      const base = <f64>luminance(c) + floor; // as if channels erred together: never too small
      if (base > 0) sum += (error * error) / (<f64>(n - 1) * base * base);
    }
  return sum < <f64>limit * <f64>limit * <f64>(tw * th);
}
/** As isQuiet, of a picture that is mixed of parts: by how far two halves of its samples, an even number, are apart. */
function isMixQuiet(job: usize, mix: i32, x0: i32, y0: i32, tw: i32, th: i32, n: i32): bool {
  const limit = load<f32>(job, JOB.NOISE);
  const floor: f64 = load<f32>(job, JOB.NOISE_FLOOR);
  const parts = load<i32>(job, JOB.PARTS);
  const weights = <usize>load<u32>(job, JOB.MIX_WEIGHTS) + ((<usize>(mix * parts)) << 4);
  const whole = plane(job, PLANE.PARTS);
  const half = plane(job, PLANE.PARTS_HALF);
  const layer = layerBytes(job);
  const w = load<i32>(job, JOB.WIDTH);
  const k: f32 = <f32>1 / <f32>n;
  let sum: f64 = 0;
  for (let y = y0; y < y0 + th; y++)
    for (let x = x0; x < x0 + tw; x++) {
      const at = <usize>(y * w + x) * 12;
      let all = f32x4.splat(0);
      let first = f32x4.splat(0);
      for (let part: i32 = 0; part < parts; part++) {
        const share = v128.load(weights + ((<usize>part) << 4));
        all = add(all, mul(share, load3(whole + <usize>part * layer + at)));
        first = add(first, mul(share, load3(half + <usize>part * layer + at)));
      }
      // half of what lies between the means of the halves
      const error: f64 = luminance(f32x4.abs(scale(sub(scale(first, 2), all), k)));
      const base = <f64>luminance(scale(all, k)) + floor;
      if (base > 0) sum += (error * error) / (base * base);
    }
  return sum < <f64>limit * <f64>limit * <f64>(tw * th);
}
