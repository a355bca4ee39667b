// The denoiser: non-local means on light without surface colour (what was seen, less what glows, over albedo), steered
// by the measured variance and by the guides seen through glass and in mirrors (Buades et al. 2005; with variances
// after Rousselle et al. 2012 and features after Rousselle et al. 2013).
//
// Why this one: it takes away only what the variance explains, so shadows and textures stay; it needs no training and
// gives the same bits everywhere. Fitted polynomials over features did better on mirrors but took four times as long
// (not tried here in full). Cost: 441 offsets, each a few operations a pixel, four pixels at once.
//
// A band of rows at a time with a border, so that memory beside the result is a few megabytes a thread: planes in one
// block of floats,
//   light r g b | variance r g b | normal x y z | albedo r g b | light r g b of each layer (rows of `stride`),
// then distances, column sums, and sums of weighted light, weights, and weighted light of each layer: light groups, and
// light on shadow catchers. They are averaged with the picture's weights; groups keep what the camera sees glow of
// theirs as it is, so that they stay parts of the picture.
import * as DENOISE from './layout/denoise';
import * as JOB from './layout/job';
import * as PLANE from './layout/plane';
import * as TILE from './layout/tile';
import { X, Y, Z, add, load3, luminance, maxOf, mul, scale, store3, sub, vec } from './vec';

/** How much difference noise explains: smaller keeps more, detail and noise. */
const K2: f32 = 0.2;
const LOG2E: f32 = 1.442695;
/** Weight lost, as a power of two, for a difference of 1 squared: 8 and 6 times log2 e. */
const NORMAL_LOSS: f32 = -11.54156;
const ALBEDO_LOSS: f32 = -8.65617;
/**
 * A pixel whose relative standard error is above this and which outshines all its neighbours is brought down to them.
 */
const SPIKE: f32 = 0.25;
const PLANES_USED: usize = 12;

let film: usize = 0;
let moments: usize = 0;
let glow: usize = 0;
let albedos: usize = 0;
let normals: usize = 0;
let width: i32 = 0;
let height: i32 = 0;
let states: usize = 0;
let across: i32 = 0;
// pixels of the first tile that lie before the film: tiles are those of the whole frame
let cutLeft: i32 = 0;
let cutTop: i32 = 0;
let groupFilm: usize = 0;
let groupGlow: usize = 0;
let groups: usize = 0;
let caughtFilm: usize = 0;
/** What is averaged with the picture's weights: light groups, then light on shadow catchers. */
let layers: usize = 0;
const CAUGHT_LAYERS: usize = 3;

// @ts-ignore
@inline function samplesAt(x: i32, y: i32): f32 {
  const tile = ((y + cutTop) / TILE.HEIGHT) * across + (x + cutLeft) / TILE.WIDTH;
  return <f32>max<i32>(load<i32>(states + ((<usize>tile) << 2)) & (TILE.FINISHED - 1), 1);
}
// @ts-ignore
@inline function floored(a: v128): v128 {
  return f32x4.replace_lane(f32x4.max(a, f32x4.splat(<f32>0.02)), 3, 0);
}
/** Light of a pixel without what glows and without albedo; its variance to out. */
function demodulated(x: i32, y: i32, out: usize): v128 {
  const pixel = <usize>(y * width + x);
  const k: f32 = <f32>1 / samplesAt(x, y);
  const c = scale(load3(film + (pixel << 4)), k);
  const a = f32x4.replace_lane(f32x4.div(f32x4.splat(1), floored(scale(load3(albedos + pixel * 12), k))), 3, 0);
  const spread = f32x4.replace_lane(
    f32x4.max(sub(scale(load3(moments + pixel * 12), k), mul(c, c)), f32x4.splat(0)),
    3,
    0,
  );
  const one: f32 = 1;
  store3(out, mul(scale(spread, k / max<f32>(one - k, <f32>0.5)), mul(a, a)));
  return mul(f32x4.replace_lane(f32x4.max(sub(c, scale(load3(glow + pixel * 12), k)), f32x4.splat(0)), 3, 0), a);
}

/** Sums of a layer in a pixel, and what of them the camera sees glow. */
// @ts-ignore
@inline function layerAt(layer: usize, pixels: usize, pixel: usize): v128 {
  if (layer < groups) return load3(groupFilm + (layer * pixels + pixel) * 12);
  return load3(caughtFilm + ((layer - groups) * pixels + pixel) * 12);
}
// @ts-ignore
@inline function glowAt(layer: usize, pixels: usize, pixel: usize): v128 {
  return layer < groups ? load3(groupGlow + (layer * pixels + pixel) * 12) : vec(0, 0, 0);
}

/** 2^x for x ≤ 0, wrong by 1e-4 at most. */
// @ts-ignore
@inline function exp2(x: v128): v128 {
  const y = f32x4.max(x, f32x4.splat(-60));
  const i = f32x4.floor(y);
  const f = f32x4.sub(y, i);
  const p = f32x4.add(
    f32x4.splat(<f32>0.9999252),
    f32x4.mul(
      f,
      f32x4.add(
        f32x4.splat(<f32>0.6958335),
        f32x4.mul(f, f32x4.add(f32x4.splat(<f32>0.2260671), f32x4.mul(f, f32x4.splat(<f32>0.0780245)))),
      ),
    ),
  );
  return f32x4.mul(p, i32x4.shl(i32x4.add(i32x4.trunc_sat_f32x4_s(i), i32x4.splat(127)), 23));
}

/** Denoises rows y0 … y1 − 1 into out: 3 floats a pixel of the film, then of each layer. */
function band(y0: i32, y1: i32, scratch: usize, out: usize): void {
  const rows = y1 - y0;
  const B: i32 = DENOISE.BORDER;
  const R: i32 = DENOISE.REACH;
  const P: i32 = DENOISE.PATCH;
  const stride = <usize>((width + 2 * B + 7) & ~3);
  const plane = stride * <usize>(DENOISE.BAND + 2 * B) * 4;
  const row = stride * 4;
  const pixels = <usize>width * <usize>height;
  const distances = scratch + plane * (PLANES_USED + 3 * layers);
  const columns = distances + row * <usize>(DENOISE.BAND + 2 * P);
  const sums = columns + row;
  const one: f32 = 1;
  for (let r: i32 = 0; r < rows + 2 * B; r++) {
    const y = min<i32>(max<i32>(y0 + r - B, 0), height - 1);
    for (let i: i32 = 0; i < <i32>stride; i++) {
      const x = min<i32>(max<i32>(i - B, 0), width - 1);
      const pixel = <usize>(y * width + x);
      const q = scratch + <usize>r * row + ((<usize>i) << 2);
      const k: f32 = one / samplesAt(x, y);
      let light = demodulated(x, y, columns);
      let variance = load3(columns);
      let around: f32 = 0;
      let n: f32 = 1;
      const own = variance;
      for (let dy: i32 = -1; dy <= 1; dy++)
        for (let dx: i32 = -1; dx <= 1; dx++) {
          if ((dx == 0 && dy == 0) || x + dx < 0 || y + dy < 0 || x + dx >= width || y + dy >= height) continue;
          around = max<f32>(around, luminance(demodulated(x + dx, y + dy, columns)));
          variance = add(variance, load3(columns));
          n += 1;
        }
      const l = luminance(light);
      const shrink = l > around && luminance(own) > SPIKE * SPIKE * l * l && around > 0 ? around / l : one;
      light = scale(light, shrink);
      variance = scale(variance, (shrink * shrink) / n); // a single pixel's variance is itself noisy
      store<f32>(q, X(light));
      store<f32>(q + plane, Y(light));
      store<f32>(q + 2 * plane, Z(light));
      store<f32>(q + 3 * plane, X(variance));
      store<f32>(q + 4 * plane, Y(variance));
      store<f32>(q + 5 * plane, Z(variance));
      const normal = scale(load3(normals + pixel * 12), k);
      const albedo = scale(load3(albedos + pixel * 12), k);
      store<f32>(q + 6 * plane, X(normal));
      store<f32>(q + 7 * plane, Y(normal));
      store<f32>(q + 8 * plane, Z(normal));
      store<f32>(q + 9 * plane, X(albedo));
      store<f32>(q + 10 * plane, Y(albedo));
      store<f32>(q + 11 * plane, Z(albedo));
      for (let g: usize = 0; g < layers; g++) {
        const lit = sub(layerAt(g, pixels, pixel), glowAt(g, pixels, pixel));
        const share = f32x4.div(scale(lit, k * shrink), floored(albedo));
        const to = q + (PLANES_USED + 3 * g) * plane;
        store<f32>(to, X(share));
        store<f32>(to + plane, Y(share));
        store<f32>(to + 2 * plane, Z(share));
      }
    }
  }
  const values: i32 = 3 * (2 * P + 1) * (2 * P + 1);
  const area = row * <usize>rows;
  const zero = f32x4.splat(0);
  const eps = f32x4.splat(<f32>1e-8);
  const k2 = f32x4.splat(K2);
  const share = f32x4.splat(-LOG2E / <f32>values);
  const sharpN = f32x4.splat(NORMAL_LOSS);
  const sharpA = f32x4.splat(ALBEDO_LOSS);
  memory.fill(sums, 0, area * (4 + 3 * layers));
  const W = (<usize>((width + 3) & ~3)) << 2;
  const WP = (<usize>((width + 2 * P + 3) & ~3)) << 2;
  for (let dy = -R; dy <= R; dy++)
    for (let dx = -R; dx <= R; dx++) {
      const shift: isize = (<isize>dy * <isize>stride + <isize>dx) * 4;
      for (let r: i32 = 0; r < rows + 2 * P; r++) {
        const p = scratch + <usize>(R + r) * row + ((<usize>R) << 2);
        const to = distances + <usize>r * row;
        for (let x: usize = 0; x < WP; x += 16) {
          const a = p + x;
          const b = <usize>(<isize>a + shift);
          let d = zero;
          for (let c: usize = 0; c < 3; c++) {
            const vp = v128.load(a + (3 + c) * plane);
            const vq = v128.load(b + (3 + c) * plane);
            const e = f32x4.sub(v128.load(a + c * plane), v128.load(b + c * plane));
            d = f32x4.add(
              d,
              f32x4.div(
                f32x4.sub(f32x4.mul(e, e), f32x4.add(vp, f32x4.pmin(vp, vq))),
                f32x4.add(eps, f32x4.mul(k2, f32x4.add(vp, vq))),
              ),
            );
          }
          v128.store(to + x, d);
        }
      }
      for (let x: usize = 0; x < WP; x += 16) {
        let s = zero;
        for (let r: i32 = 0; r < 2 * P; r++) s = f32x4.add(s, v128.load(distances + <usize>r * row + x));
        v128.store(columns + x, s);
      }
      for (let r: i32 = 0; r < rows; r++) {
        const enter = distances + <usize>(r + 2 * P) * row;
        const leave = distances + <usize>r * row;
        for (let x: usize = 0; x < WP; x += 16)
          v128.store(columns + x, f32x4.add(v128.load(columns + x), v128.load(enter + x)));
        const p = scratch + <usize>(B + r) * row + ((<usize>B) << 2);
        const sum = sums + <usize>r * row;
        for (let x: usize = 0; x < W; x += 16) {
          let d = v128.load(columns + x);
          for (let i: usize = 1; i <= <usize>(2 * P); i++) d = f32x4.add(d, v128.load(columns + x + (i << 2)));
          const a = p + x;
          const b = <usize>(<isize>a + shift);
          let n = zero;
          let m = zero;
          for (let c: usize = 6; c < 9; c++) {
            const e = f32x4.sub(v128.load(a + c * plane), v128.load(b + c * plane));
            n = f32x4.add(n, f32x4.mul(e, e));
          }
          for (let c: usize = 9; c < 12; c++) {
            const e = f32x4.sub(v128.load(a + c * plane), v128.load(b + c * plane));
            m = f32x4.add(m, f32x4.mul(e, e));
          }
          const w = exp2(
            f32x4.add(f32x4.add(f32x4.mul(f32x4.max(d, zero), share), f32x4.mul(n, sharpN)), f32x4.mul(m, sharpA)),
          );
          for (let c: usize = 0; c < 3; c++)
            v128.store(
              sum + c * area + x,
              f32x4.add(v128.load(sum + c * area + x), f32x4.mul(w, v128.load(b + c * plane))),
            );
          v128.store(sum + 3 * area + x, f32x4.add(v128.load(sum + 3 * area + x), w));
          for (let c: usize = 0; c < 3 * layers; c++) {
            const to = sum + (4 + c) * area + x;
            v128.store(to, f32x4.add(v128.load(to), f32x4.mul(w, v128.load(b + (PLANES_USED + c) * plane))));
          }
        }
        for (let x: usize = 0; x < WP; x += 16)
          v128.store(columns + x, f32x4.sub(v128.load(columns + x), v128.load(leave + x)));
      }
    }
  for (let r: i32 = 0; r < rows; r++)
    for (let x: i32 = 0; x < width; x++) {
      const pixel = <usize>((y0 + r) * width + x);
      const q = sums + <usize>r * row + ((<usize>x) << 2);
      const k: f32 = one / samplesAt(x, y0 + r);
      const w: f32 = one / load<f32>(q + 3 * area);
      const light = vec(load<f32>(q) * w, load<f32>(q + area) * w, load<f32>(q + 2 * area) * w);
      const albedo = floored(scale(load3(albedos + pixel * 12), k));
      const whole = add(mul(light, albedo), scale(load3(glow + pixel * 12), k));
      store3(out + pixel * 12, whole);
      for (let g: usize = 0; g < layers; g++) {
        const s = q + (4 + 3 * g) * area;
        const lit = vec(load<f32>(s) * w, load<f32>(s + area) * w, load<f32>(s + 2 * area) * w);
        const own = scale(glowAt(g, pixels, pixel), k);
        store3(out + ((g + 1) * pixels + pixel) * 12, add(mul(lit, albedo), own));
      }
    }
}

/** Bytes of a thread's scratch for a film so wide with so many layers beside the picture. */
export function denoiseScratchBytes(filmWidth: i32, layerCount: i32): i32 {
  const stride = (filmWidth + 2 * DENOISE.BORDER + 7) & ~3;
  return (
    stride *
      4 *
      ((<i32>PLANES_USED + 3 * layerCount) * (DENOISE.BAND + 2 * DENOISE.BORDER) +
        DENOISE.BAND +
        2 * DENOISE.PATCH +
        1 +
        (4 + 3 * layerCount) * DENOISE.BAND) +
    64
  );
}

/** Denoises bands until none is left or the job is cancelled. Called by every thread, each with scratch of its own. */
export function denoiseBands(job: usize, scratch: usize, out: usize): void {
  width = load<i32>(job, JOB.WIDTH);
  height = load<i32>(job, JOB.HEIGHT);
  film = load<u32>(job, JOB.FILM);
  states = load<u32>(job, JOB.TILE_STATE);
  cutLeft = load<i32>(job, JOB.LEFT) % TILE.WIDTH;
  cutTop = load<i32>(job, JOB.TOP) % TILE.HEIGHT;
  across = (cutLeft + width + TILE.WIDTH - 1) / TILE.WIDTH;
  moments = load<u32>(job + (PLANE.MOMENT << 2), JOB.PLANES);
  glow = load<u32>(job + (PLANE.EMISSION << 2), JOB.PLANES);
  albedos = load<u32>(job + (PLANE.GUIDE_ALBEDO << 2), JOB.PLANES);
  normals = load<u32>(job + (PLANE.GUIDE_NORMAL << 2), JOB.PLANES);
  groupFilm = load<u32>(job + (PLANE.GROUPS << 2), JOB.PLANES);
  groupGlow = load<u32>(job + (PLANE.GROUPS_EMISSION << 2), JOB.PLANES);
  groups = groupFilm ? <usize>load<u32>(job, JOB.GROUPS) : 0;
  caughtFilm = load<u32>(job + (PLANE.CAUGHT << 2), JOB.PLANES);
  layers = groups + (caughtFilm ? CAUGHT_LAYERS : 0);
  const bands = (height + DENOISE.BAND - 1) / DENOISE.BAND;
  while (true) {
    const b = atomic.add<i32>(job + JOB.NEXT_TILE, 1);
    if (b >= bands || atomic.load<i32>(job + JOB.CANCEL)) return;
    band(b * DENOISE.BAND, min<i32>(height, (b + 1) * DENOISE.BAND), scratch, out);
    atomic.add<i32>(job + JOB.TILES_DONE, 1);
  }
}
