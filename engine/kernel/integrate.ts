// The wavefront path tracer: one wave is a tile of pixels times one sample; each bounce goes through the stages
// trace → shade (which queues shadow rays and next rays) → trace shadows → add. Order of addition is path order, so it depends on nothing else.
import {
  HIT_BYTES, HIT_INST, INST_BYTES, INST_LIGHT, JOB_BOUNCES, JOB_CAMERA, JOB_CANCEL, JOB_CLAMP, JOB_ENV, JOB_FILM, JOB_HEIGHT, JOB_INSTANCES, JOB_LIGHT_COUNT, JOB_NEXT_TILE,
  JOB_ORTHO, JOB_PATHS, JOB_RAYS, JOB_ROOT, JOB_SAMPLE_COUNT, JOB_SAMPLE_START, JOB_SEED, JOB_TILES_DONE, JOB_WIDTH, MASK_CAMERA, MASK_DIFFUSE, MASK_SHADOW, MASK_SPECULAR,
  MAT_ATTENUATION, MAT_FLAGS, MAT_SOLID, PATH_BOUNCE, PATH_BYTES, PATH_COVERED, PATH_NORMAL, PATH_PDF, PATH_PIXEL, PATH_RADIANCE, PATH_SAMPLE, PATH_SEED,
  RAYS_IN_FLIGHT, RAY_BYTES, RAY_DIR, RAY_MASK, RAY_PATH, RAY_TMAX, RAY_TMIN, SCRATCH_HITS, SCRATCH_PATHS, SCRATCH_RAYS_A, SCRATCH_RAYS_B, SCRATCH_SHADE,
  SCRATCH_SHADOW_HITS, SCRATCH_SHADOW_RAYS, SCRATCH_SLOTS, SCRATCH_SURFACE, SCRATCH_WEIGHTS, SHADE_BYTES, TILE_HEIGHT, TILE_WIDTH,
} from './layout';
import { environment, environmentPdf, meshLightPdf, sampleEnvironment, sampleLight } from './lights';
import { hash, random3 } from './sampling';
import {
  KIND_DIFFUSE, KIND_NONE, KIND_TRANSMITTED, PI, S_BASE, S_EMISSION, S_FRONT, S_GEOMETRIC, S_KIND, S_MATERIAL, S_OUT, S_PDF, S_POSITION, S_TRANSMISSION, S_WEIGHT, evaluate, readSurface, scatter,
} from './surface';
import { closest, occluded } from './traverse';
import { X, Y, Z, add, dot, load3, maxOf, mul, normalize, scale, store3, sub, vec } from './vec';

const S_LIGHT: usize = 320; // light sample record within the surface scratch
const DIMS_CAMERA: u32 = 2, DIMS_BOUNCE: u32 = 4; // pairs of dimensions used: pixel and lens; per bounce light, environment, direction, roulette

/** Origin moved off the surface along normal n, by an amount that fits the size of the coordinates (Wächter & Binder, Ray Tracing Gems, 2019). */
// @ts-ignore
@inline function offset1(p: f32, n: f32): f32 {
  const i = <i32>(<f32>256 * n);
  return abs<f32>(p) < <f32>(1.0 / 32) ? p + <f32>(1.0 / 65536) * n : reinterpret<f32>(reinterpret<i32>(p) + (p < 0 ? -i : i));
}
// @ts-ignore
@inline function offset(p: v128, n: v128): v128 { return vec(offset1(X(p), X(n)), offset1(Y(p), Y(n)), offset1(Z(p), Z(n))); }
// @ts-ignore
@inline function putRay(r: usize, o: v128, tMin: f32, d: v128, tMax: f32, mask: u32, path: u32): void {
  v128.store(r, f32x4.replace_lane(o, 3, tMin)); v128.store(r, f32x4.replace_lane(d, 3, tMax), 16); store<u32>(r, mask, RAY_MASK); store<u32>(r, path, RAY_PATH);
}
// @ts-ignore
@inline function tent(u: f32): f32 { // inverse cumulative of a tent of half-width 1: the reconstruction filter, sampled instead of splatted
  const two: f32 = 2, one: f32 = 1;
  return u < <f32>0.5 ? sqrt<f32>(two * u) - one : one - sqrt<f32>(two - two * u);
}

function cameraRay(job: usize, pixel: u32, seed: u32, sample: u32, ray: usize, path: u32): void {
  const w = load<u32>(job, JOB_WIDTH), h = load<u32>(job, JOB_HEIGHT), one: f32 = 1, two: f32 = 2, half: f32 = 0.5, c = job + JOB_CAMERA;
  const r = random3(seed, sample, 0), x = (<f32>(pixel % w) + half + tent(X(r))) / <f32>w * two - one, y = one - (<f32>(pixel / w) + half + tent(Y(r))) / <f32>h * two;
  const o = load3(c), right = load3(c + 16), up = load3(c + 32), forward = load3(c + 48), near = load<f32>(c, 12), far = load<f32>(c, 28), lens = load<f32>(c, 44), focus = load<f32>(c, 60);
  const across = add(scale(right, x), scale(up, y));
  if (load<u32>(job, JOB_ORTHO)) { putRay(ray, add(o, across), near, forward, far, MASK_CAMERA, path); return; }
  let d = add(forward, across), origin = o;
  if (lens > 0) {
    const q = random3(seed, sample, 1), k = lens * sqrt<f32>(X(q)), phi: f32 = two * PI * Y(q);
    const shift = add(scale(normalize(right), k * Mathf.cos(phi)), scale(normalize(up), k * Mathf.sin(phi)));
    origin = add(o, shift); d = sub(scale(d, focus), shift);
  }
  d = normalize(d);
  const cos = dot(d, forward); // clipping planes are at depths, not at distances
  putRay(ray, origin, near / cos, d, far / cos, MASK_CAMERA, path);
}

/** Share of light left after t metres inside a solid (Beer–Lambert). */
function transmittance(mat: usize, t: f32): v128 {
  return vec(Mathf.exp(-load<f32>(mat, MAT_ATTENUATION) * t), Mathf.exp(-load<f32>(mat, MAT_ATTENUATION + 4) * t), Mathf.exp(-load<f32>(mat, MAT_ATTENUATION + 8) * t));
}

/** Power heuristic between two ways of finding the same light. */
// @ts-ignore
@inline function weigh(a: f32, b: f32): f32 { return a * a / (a * a + b * b); }

function addRadiance(job: usize, path: usize, c: v128): void {
  const limit = load<f32>(job, JOB_CLAMP), m = maxOf(c);
  if (limit > 0 && m > limit && load<u32>(path, PATH_BOUNCE) > 0) c = scale(c, limit / m);
  if (m < Infinity && m >= 0) store3(path + PATH_RADIANCE, add(load3(path + PATH_RADIANCE), c));
}

/** Traces and shades one wave of n paths whose rays wait in queue A. Returns the number of rays traced. */
function wave(job: usize, scratch: usize, n: i32): u32 {
  const root = load<u32>(job, JOB_ROOT), instances: usize = load<u32>(job, JOB_INSTANCES), bounces = load<u32>(job, JOB_BOUNCES), S = scratch + SCRATCH_SURFACE, L = S + S_LIGHT, weights = scratch + SCRATCH_WEIGHTS;
  const hits = scratch + SCRATCH_HITS, paths = scratch + SCRATCH_PATHS, shadows = scratch + SCRATCH_SHADOW_RAYS, shades = scratch + SCRATCH_SHADE, results = scratch + SCRATCH_SHADOW_HITS;
  const hasEnv = load<u32>(job, JOB_ENV) != 0, hasLights = load<i32>(job, JOB_LIGHT_COUNT) > 0, one: f32 = 1;
  let from = scratch + SCRATCH_RAYS_A, into = scratch + SCRATCH_RAYS_B, rays: u32 = 0;
  while (n > 0) {
    rays += n;
    if (root) closest(root, from, hits, n, scratch + SCRATCH_SLOTS, RAYS_IN_FLIGHT);
    let next: i32 = 0, shadow: i32 = 0;
    for (let i: i32 = 0; i < n; i++) {
      const ray = from + <usize>i * RAY_BYTES, hit = hits + <usize>i * HIT_BYTES, index = load<u32>(ray, RAY_PATH), path = paths + <usize>index * PATH_BYTES;
      const d = load3(ray + RAY_DIR), through = load3(path), pdf = load<f32>(path, PATH_PDF), bounce = load<u32>(path, PATH_BOUNCE);
      if (!root || load<u32>(hit, HIT_INST) == 0xffffffff) {
        if (hasEnv) addRadiance(job, path, scale(mul(through, environment(job, d)), pdf > 0 ? weigh(pdf, environmentPdf(job, d)) : one));
        continue;
      }
      const inst = instances + <usize>load<u32>(hit, HIT_INST) * INST_BYTES, t = load<f32>(hit);
      readSurface(job, hit, inst, d, S);
      if (!bounce) store<f32>(path, 1, PATH_COVERED);
      const mat: usize = load<u32>(S, S_MATERIAL);
      let carried = through;
      if (!load<i32>(S, S_FRONT) && load<u32>(mat, MAT_FLAGS) & MAT_SOLID) { // the ray went through the solid: Beer–Lambert
        carried = mul(carried, transmittance(mat, t));
      }
      const emission = load3(S + S_EMISSION);
      if (maxOf(emission) > 0) {
        const light = load<i32>(inst, INST_LIGHT);
        const other: f32 = pdf > 0 && light >= 0 ? meshLightPdf(job, light, load3(ray), load3(path + PATH_NORMAL), t, -dot(load3(S + S_GEOMETRIC), d), weights) : 0;
        addRadiance(job, path, scale(mul(carried, emission), pdf > 0 ? weigh(pdf, other) : one));
      }
      if (bounce >= bounces) continue;
      const seed = load<u32>(path, PATH_SEED), sample = load<u32>(path, PATH_SAMPLE), dim = DIMS_CAMERA + bounce * DIMS_BOUNCE;
      const ng = load3(S + S_GEOMETRIC), origin = offset(load3(S + S_POSITION), ng);
      if (load<f32>(S, S_TRANSMISSION) < 1) {
        for (let kind: i32 = 0; kind < 2; kind++) {
          const found = kind ? (hasEnv && sampleEnvironment(job, random3(seed, sample, dim + 1), L)) : (hasLights && sampleLight(job, origin, ng, random3(seed, sample, dim), L, weights));
          if (!found) continue;
          const f = evaluate(S, load3(L)), lightPdf = load<f32>(L, 28), fPdf = f32x4.extract_lane(f, 3);
          if (!(fPdf > 0)) continue;
          const c = scale(mul(mul(carried, f32x4.replace_lane(f, 3, 0)), load3(L + 16)), lightPdf > 0 ? weigh(lightPdf, fPdf) : one);
          if (!(maxOf(c) > 0)) continue;
          putRay(shadows + <usize>shadow * RAY_BYTES, origin, 0, load3(L), load<f32>(L, 12), MASK_SHADOW, index);
          const q = shades + <usize>shadow * SHADE_BYTES;
          v128.store(q, c); store<u32>(q, index, 12);
          shadow++;
        }
      }
      const r = random3(seed, sample, dim + 2);
      scatter(S, r, Z(r));
      const kind = load<i32>(S, S_KIND);
      if (kind == KIND_NONE) continue;
      carried = mul(carried, load3(S + S_WEIGHT));
      if (bounce >= 1) { // Russian roulette, from the second vertex on: most surfaces of a night scene are dark
        const keep = min<f32>(maxOf(carried), <f32>0.95);
        if (!(Z(random3(seed, sample, dim + 3)) < keep)) continue;
        carried = scale(carried, one / keep);
      }
      if (!(maxOf(carried) > 0)) continue;
      const out = load3(S + S_OUT), start = kind == KIND_TRANSMITTED ? offset(load3(S + S_POSITION), scale(ng, -1)) : origin;
      putRay(into + <usize>next * RAY_BYTES, start, 0, out, Infinity, kind == KIND_DIFFUSE ? MASK_DIFFUSE : MASK_SPECULAR, index);
      v128.store(path, f32x4.replace_lane(carried, 3, load<f32>(S, S_PDF)));
      store3(path + PATH_NORMAL, ng); store<u32>(path, bounce + 1, PATH_BOUNCE);
      next++;
    }
    if (shadow) {
      rays += shadow;
      if (root) occluded(root, shadows, results, shadow, scratch + SCRATCH_SLOTS, RAYS_IN_FLIGHT);
      for (let i: i32 = 0; i < shadow; i++) if (!root || !load<i32>(results + (<usize>i << 2))) {
        const q = shades + <usize>i * SHADE_BYTES;
        addRadiance(job, paths + <usize>load<u32>(q, 12) * PATH_BYTES, load3(q));
      }
    }
    n = next;
    const swap = from; from = into; into = swap;
  }
  return rays;
}

/** Renders tiles until none is left or the job is cancelled. Called by every thread, each with scratch of its own. */
export function renderTiles(job: usize, scratch: usize): void {
  const w = load<i32>(job, JOB_WIDTH), h = load<i32>(job, JOB_HEIGHT), film: usize = load<u32>(job, JOB_FILM);
  const across = (w + TILE_WIDTH - 1) / TILE_WIDTH, tiles = across * ((h + TILE_HEIGHT - 1) / TILE_HEIGHT);
  const first = load<i32>(job, JOB_SAMPLE_START), count = load<i32>(job, JOB_SAMPLE_COUNT), jobSeed = load<u32>(job, JOB_SEED), paths = scratch + SCRATCH_PATHS;
  while (true) {
    const tile = atomic.add<i32>(job + JOB_NEXT_TILE, 1);
    if (tile >= tiles) return;
    const x0 = tile % across * TILE_WIDTH, y0 = tile / across * TILE_HEIGHT, tw = min<i32>(TILE_WIDTH, w - x0), th = min<i32>(TILE_HEIGHT, h - y0), n = tw * th;
    let rays: u64 = 0;
    for (let s: i32 = 0; s < count; s++) {
      if (atomic.load<i32>(job + JOB_CANCEL)) return;
      for (let i: i32 = 0; i < n; i++) {
        const pixel = (y0 + i / tw) * w + x0 + i % tw, path = paths + <usize>i * PATH_BYTES, seed = hash(<u32>pixel, jobSeed);
        v128.store(path, vec(1, 1, 1)); v128.store(path, f32x4.splat(0), PATH_RADIANCE); store<u32>(path, seed, PATH_SEED); store<u32>(path, <u32>pixel, PATH_PIXEL);
        store<u32>(path, <u32>(first + s), PATH_SAMPLE); store<u32>(path, 0, PATH_BOUNCE); store<f32>(path, 0, PATH_COVERED);
        cameraRay(job, <u32>pixel, seed, <u32>(first + s), scratch + SCRATCH_RAYS_A + <usize>i * RAY_BYTES, <u32>i);
      }
      rays += wave(job, scratch, n);
      for (let i: i32 = 0; i < n; i++) {
        const path = paths + <usize>i * PATH_BYTES, q = film + (<usize>load<u32>(path, PATH_PIXEL) << 4);
        v128.store(q, f32x4.add(v128.load(q), f32x4.replace_lane(load3(path + PATH_RADIANCE), 3, load<f32>(path, PATH_COVERED))));
      }
    }
    atomic.add<u64>(job + JOB_RAYS, rays); atomic.add<u64>(job + JOB_PATHS, <u64>n * <u64>count);
    atomic.add<i32>(job + JOB_TILES_DONE, 1);
  }
}
