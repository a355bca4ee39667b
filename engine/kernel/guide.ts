// Where to look for light that surfaces scatter: about lamps, since what stands near them is bright. A part of the
// directions that a surface's cosine lobe would draw are drawn about the lamps instead, each as often as it is weighed
// for light samples there; all are weighed by the density of both ways together, so that nothing but the noise changes.
// It depends on lights and the point alone, as light samples do.
//
// About a lamp directions of cosine m to it have the density e (2 + e) / (4 π (1 − m + e)²): narrow at its middle, with
// a tail that reaches everywhere, since nobody knows how far from it things stand. Integrated and inverted in closed
// form.
import * as JOB from './layout/job';
import * as LIGHT from './layout/light';
import * as SURFACE from './record';
import { PI } from './microfacets';
import { choose, disc } from './lights';
import { X, Y, Z, dot, load3, normalize, scale, sub, vec } from './vec';

/** Off only in a build that the benchmark of equal times makes. */
const GUIDED: bool = true;
/** Share of the cosine lobe's directions that are drawn so where all light is that of lamps. */
const SHARE: f32 = 0.3;
/** Half the square of how far from a lamp things are expected, m². */
const NEAR: f32 = 0.003;
/** And of the tangent of the angle that they are seen under at least. */
const LEAST: f32 = 0.001;
/** Where less of the directions would be drawn so, none is. */
const LITTLE: f32 = 0.02;

// ---- of the vertex: set by beginGuide
let share: f32 = 0;
let at: v128 = i32x4(0, 0, 0, 0);
let weights: usize = 0;
let scratch: usize = 0;
let table: usize = 0;
let rows: i32 = 0;
let count: i32 = 0;
let suns: i32 = 0;
let ofSuns: f32 = 0;
let ofLamps: f32 = 0;

/**
 * @param p a point where lights have been weighed (weighLights), to w @param all about how much light everything gives
 * there
 * @param lights of it what lights give, infinite where that is not known @param out four bytes of scratch
 */
export function beginGuide(job: usize, p: v128, w: usize, lights: f32, all: f32, out: usize): void {
  share = 0;
  if (!GUIDED || !(lights > 0) || load<i32>(job, JOB.LIGHT_COUNT) > LIGHT.WEIGHED) return;
  suns = load<i32>(job, JOB.SUNS);
  count = suns + load<i32>(job, JOB.SPOTS) + load<i32>(job, JOB.POINTS);
  ofSuns = sumOf(w, 0, suns);
  ofLamps = sumOf(w, suns, count);
  const wanted = (SHARE * ofLamps) / all;
  if (!(wanted > LITTLE)) return;
  share = wanted;
  at = p;
  weights = w;
  scratch = out;
  table = load<u32>(job, JOB.LIGHT_TABLE);
  rows = (count + 3) >> 2;
}
function sumOf(w: usize, from: i32, to: i32): f32 {
  let sum: f32 = 0;
  for (let i = from; i < to; i++) sum += load<f32>(w + ((<usize>i) << 2));
  return sum;
}
export function endGuide(): void {
  share = 0;
}

/** What of the cosine lobe's directions is drawn about lamps. */
// @ts-ignore
@inline export function guideShare(): f32 {
  return share;
}

/** Density of directions about lamps, 1/sr. */
function density(w: v128): f32 {
  const px = f32x4.splat(X(at));
  const py = f32x4.splat(Y(at));
  const pz = f32x4.splat(Z(at));
  const wx = f32x4.splat(X(w));
  const wy = f32x4.splat(Y(w));
  const wz = f32x4.splat(Z(w));
  const one = f32x4.splat(1);
  let sum = f32x4.splat(0);
  let q = table;
  for (let i: i32 = 0; i < rows; i++, q += LIGHT.ROW_BYTES) {
    const lane = i32x4.add(i32x4.splat(i << 2), i32x4(0, 1, 2, 3));
    const isLamp = v128.and(i32x4.ge_s(lane, i32x4.splat(suns)), i32x4.lt_s(lane, i32x4.splat(count)));
    const weight = v128.and(v128.load(weights + ((<usize>i) << 4)), isLamp);
    const x = f32x4.sub(v128.load(q), px);
    const y = f32x4.sub(v128.load(q, 16), py);
    const z = f32x4.sub(v128.load(q, 32), pz);
    const d2 = f32x4.add(
      f32x4.add(f32x4.add(f32x4.mul(x, x), f32x4.mul(y, y)), f32x4.mul(z, z)),
      f32x4.splat(<f32>1e-12),
    );
    const c = f32x4.add(f32x4.add(f32x4.mul(x, wx), f32x4.mul(y, wy)), f32x4.mul(z, wz));
    const m = f32x4.min(f32x4.div(c, f32x4.sqrt(d2)), one);
    const e = f32x4.max(f32x4.div(f32x4.splat(NEAR), d2), f32x4.splat(LEAST));
    const t = f32x4.add(f32x4.sub(one, m), e);
    sum = f32x4.add(sum, f32x4.mul(weight, f32x4.div(f32x4.mul(e, f32x4.add(e, f32x4.splat(2))), f32x4.mul(t, t))));
  }
  const all =
    f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 1) + (f32x4.extract_lane(sum, 2) + f32x4.extract_lane(sum, 3));
  return all / (<f32>4 * PI * ofLamps);
}

/**
 * Adds that way to the density of the cosine lobe that evaluate() left in S for direction w.
 */
export function mixGuide(S: usize, w: v128): void {
  if (!(share > 0)) return;
  const fc = v128.load(S, SURFACE.FC);
  let own = f32x4.extract_lane(fc, 3) * (<f32>1 - share);
  if (dot(load3(S + SURFACE.SMOOTH), w) > 0) own += share * load<f32>(S, SURFACE.P_COSINE) * density(w);
  v128.store(S, f32x4.replace_lane(fc, 3, own), SURFACE.FC);
}

/** A direction about a lamp. u, r: random numbers. */
export function guidedDirection(u: f32, r: v128): v128 {
  const k = choose(weights, count, ofSuns + u * ofLamps, scratch);
  const lane = table + <usize>(k >> 2) * LIGHT.ROW_BYTES + ((<usize>(k & 3)) << 2);
  const to = sub(vec(load<f32>(lane), load<f32>(lane, 16), load<f32>(lane, 32)), at);
  const d2 = dot(to, to) + <f32>1e-12;
  const e = max<f32>(NEAR / d2, LEAST);
  const one: f32 = 1;
  const two: f32 = 2;
  const m = max<f32>(one + e - (e * (two + e)) / (e + two * X(r)), -1);
  const s = sqrt<f32>(max<f32>(one - m * m, 0));
  const axis = scale(to, one / sqrt<f32>(d2));
  return normalize(disc(axis, s, two * PI * Y(r), scale(axis, m)));
}
