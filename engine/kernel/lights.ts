// Picks light for a shading point, and says with what density a direction would have been picked (for multiple
// importance sampling).
// A light's probability depends on the lights and the point alone, never on objects that give no light: culling relies
// on it.
import * as INST from './layout/instance';
import * as JOB from './layout/job';
import * as LIGHT from './layout/light';
import * as LTRI from './layout/emissiveTriangle';
import * as MAT from './layout/material';
import * as SAMPLE from './lightSample';
import { PI } from './microfacets';
import { alphaAt } from './alpha';
import { emissionAt } from './surface';
import { X, Y, Z, add, cross, dot, load3, normalize, scale, sub, vec } from './vec';

// Light sample, in a thread's scratch: direction, distance | radiance / pdf, pdf (0: no scattered ray meets it) |
// group, instance (0: none), how far its shadow rays go
/** Off only in a build that the benchmark of equal times makes: lights picked by power alone. */
const BY_PLACE: bool = true;

/**
 * Estimates for point p with geometric normal n how much each of the lights in rows at q may matter (about its
 * irradiance; 0 only where it gives nothing), four at a time, into weights. Weighing all of 61 lights one by one took
 * 28 % of a render; this takes a third of that.
 */
function weighRows(q: usize, rows: i32, p: v128, n: v128, weights: usize): void {
  const floor = f32x4.splat(<f32>0.05);
  const px = f32x4.splat(X(p));
  const py = f32x4.splat(Y(p));
  const pz = f32x4.splat(Z(p));
  const nx = f32x4.splat(X(n));
  const ny = f32x4.splat(Y(n));
  const nz = f32x4.splat(Z(n));
  for (let i: i32 = 0; i < rows; i++) {
    const x = f32x4.sub(v128.load(q), px);
    const y = f32x4.sub(v128.load(q, 16), py);
    const z = f32x4.sub(v128.load(q, 32), pz);
    const bound = v128.load(q, 64);
    const d2 = f32x4.add(f32x4.add(f32x4.mul(x, x), f32x4.mul(y, y)), f32x4.mul(z, z));
    const c = f32x4.add(f32x4.add(f32x4.mul(x, nx), f32x4.mul(y, ny)), f32x4.mul(z, nz));
    const d = f32x4.sqrt(d2);
    const near = f32x4.max(d2, f32x4.add(f32x4.mul(bound, bound), f32x4.splat(<f32>1e-6)));
    const over = f32x4.add(c, bound);
    const facing = f32x4.max(f32x4.div(over, f32x4.add(f32x4.add(d, bound), f32x4.splat(<f32>1e-9))), floor);
    const reaches = f32x4.gt(over, f32x4.mul(d, f32x4.splat(<f32>-1e-4))); // not wholly below the surface
    v128.store(weights + ((<usize>i) << 4), v128.and(reaches, f32x4.mul(f32x4.div(v128.load(q, 48), near), facing)));
    q += LIGHT.ROW_BYTES;
  }
}
function total(weights: usize, rows: i32): f32 {
  let sums = f32x4.splat(0);
  for (let i: i32 = 0; i < rows; i++) sums = f32x4.add(sums, v128.load(weights + ((<usize>i) << 4)));
  return (
    f32x4.extract_lane(sums, 0) +
    f32x4.extract_lane(sums, 1) +
    (f32x4.extract_lane(sums, 2) + f32x4.extract_lane(sums, 3))
  );
}
// @ts-ignore
@inline function sunWeight(light: usize, n: v128): f32 {
  const c = -dot(load3(light + LIGHT.DIRECTION), n);
  return c < -load<f32>(light, LIGHT.RADIUS) - <f32>0.001 ? 0 : load<f32>(light, LIGHT.WEIGHT) * max<f32>(c, <f32>0.05);
}
/** Weights of all lights, at most LIGHT.WEIGHED; returns their sum. */
function weigh(job: usize, p: v128, n: v128, weights: usize): f32 {
  const rows = (load<i32>(job, JOB.LIGHT_COUNT) + 3) >> 2;
  weighRows(load<u32>(job, JOB.LIGHT_TABLE), rows, p, n, weights);
  const lights: usize = load<u32>(job, JOB.LIGHTS);
  const suns = load<i32>(job, JOB.SUNS);
  const spots = suns + load<i32>(job, JOB.SPOTS);
  for (let i: i32 = 0; i < suns; i++)
    store<f32>(weights + ((<usize>i) << 2), sunWeight(lights + <usize>i * LIGHT.BYTES, n));
  for (let i = suns; i < spots; i++) {
    const light = lights + <usize>i * LIGHT.BYTES;
    const to = sub(load3(light + LIGHT.POSITION), p);
    const d = sqrt<f32>(dot(to, to));
    const radius = load<f32>(light, LIGHT.RADIUS);
    const slack = <f32>0.001 + (<f32>2 * radius) / d;
    if (d > radius && -dot(to, load3(light + LIGHT.DIRECTION)) / d < load<f32>(light, LIGHT.COS_OUTER) - slack)
      store<f32>(weights + ((<usize>i) << 2), 0);
  }
  return total(weights, rows);
}
/** Weights of the clusters; suns stand apart. Returns the sum of both. */
function weighClusters(job: usize, p: v128, n: v128, weights: usize): f32 {
  const rows = (load<i32>(job, JOB.CLUSTERS) + 3) >> 2;
  const suns = load<i32>(job, JOB.SUNS);
  const lights: usize = load<u32>(job, JOB.LIGHTS);
  weighRows(load<u32>(job, JOB.CLUSTER_TABLE), rows, p, n, weights);
  let sum = total(weights, rows);
  for (let i: i32 = 0; i < suns; i++) sum += sunWeight(lights + <usize>i * LIGHT.BYTES, n);
  return sum;
}

/**
 * Place in n weights whose share of the sum holds `at`; its start goes to out. −1 where all are 0. Where rounding
 * leaves `at` past the end, the last that matters.
 */
export function choose(weights: usize, n: i32, at: f32, out: usize): i32 {
  let last: i32 = -1;
  let below: f32 = 0;
  let top: f32 = 0;
  for (let i: i32 = 0; i < n; i++) {
    const w = load<f32>(weights + ((<usize>i) << 2));
    if (!(w > 0)) continue;
    last = i;
    below = top;
    top += w;
    if (at < top) break;
  }
  store<f32>(out, below);
  return last;
}
// @ts-ignore
@inline function rest(at: f32, below: f32, own: f32): f32 {
  return min<f32>(max<f32>((at - below) / own, 0), <f32>0.99999994);
}

/**
 * Weighs the lights for a point: before sampleLight(). Returns about how much light they give a surface there, lux;
 * infinite where it is not known.
 */
export function weighLights(job: usize, p: v128, n: v128, weights: usize): f32 {
  if (BY_PLACE && load<i32>(job, JOB.LIGHT_COUNT) <= LIGHT.WEIGHED) return weigh(job, p, n, weights);
  return BY_PLACE && load<i32>(job, JOB.CLUSTERS) ? weighClusters(job, p, n, weights) : <f32>Infinity;
}

/**
 * Index of the light picked by random number u (−1: none matters). Its probability goes to out, what is left of u to
 * out + 4.
 */
function pick(job: usize, p: v128, n: v128, u: f32, out: usize, weights: usize, sum: f32): i32 {
  const count = load<i32>(job, JOB.LIGHT_COUNT);
  const clusters = load<i32>(job, JOB.CLUSTERS);
  if (BY_PLACE && count <= LIGHT.WEIGHED) {
    if (!(sum > 0)) return -1;
    const chosen = choose(weights, count, u * sum, out);
    const own = load<f32>(weights + ((<usize>chosen) << 2));
    store<f32>(out, rest(u * sum, load<f32>(out), own), 4);
    store<f32>(out, own / sum);
    return chosen;
  }
  if (BY_PLACE && clusters) {
    const suns = load<i32>(job, JOB.SUNS);
    const lights: usize = load<u32>(job, JOB.LIGHTS);
    if (!(sum > 0)) return -1;
    let at = u * sum;
    for (let i: i32 = 0; i < suns; i++) {
      const w = sunWeight(lights + <usize>i * LIGHT.BYTES, n);
      if (at < w) {
        store<f32>(out, w / sum);
        store<f32>(out, rest(at, 0, w), 4);
        return i;
      }
      at -= w;
    }
    const k = choose(weights, clusters, at, out);
    if (k < 0) return -1;
    const own = load<f32>(weights + ((<usize>k) << 2));
    const left = rest(at, load<f32>(out), own);
    const record = <usize>load<u32>(job, JOB.CLUSTER_RECORDS) + <usize>k * LIGHT.CLUSTER_BYTES;
    const size = load<i32>(record, 4);
    weighRows(load<u32>(record), (size + 3) >> 2, p, n, weights);
    const within = total(weights, (size + 3) >> 2);
    if (!(within > 0)) return -1;
    const place = choose(weights, size, left * within, out);
    const w = load<f32>(weights + ((<usize>place) << 2));
    store<f32>(out, rest(left * within, load<f32>(out), w), 4);
    store<f32>(out, (own / sum) * (w / within));
    return load<i32>(<usize>load<u32>(record, 8) + ((<usize>place) << 2));
  }
  const cdf: usize = load<u32>(job, JOB.LIGHT_CDF);
  const chosen = search(cdf, count, u);
  const below: f32 = chosen ? load<f32>(cdf + ((<usize>(chosen - 1)) << 2)) : 0;
  const prob = load<f32>(cdf + ((<usize>chosen) << 2)) - below;
  store<f32>(out, prob);
  store<f32>(out, rest(u, below, prob), 4);
  return prob > 0 ? chosen : -1;
}
/** Probability with which pick() at p gives the light. */
function probability(job: usize, index: i32, p: v128, n: v128, weights: usize): f32 {
  const light = <usize>load<u32>(job, JOB.LIGHTS) + <usize>index * LIGHT.BYTES;
  if (BY_PLACE && load<i32>(job, JOB.LIGHT_COUNT) <= LIGHT.WEIGHED) {
    const sum = weigh(job, p, n, weights);
    return sum > 0 ? load<f32>(weights + ((<usize>index) << 2)) / sum : 0;
  }
  if (BY_PLACE && load<i32>(job, JOB.CLUSTERS)) {
    const sum = weighClusters(job, p, n, weights);
    if (!(sum > 0)) return 0;
    if (load<u32>(light, LIGHT.TYPE) == LIGHT.SUN) return sunWeight(light, n) / sum;
    const k = <usize>load<u32>(light, LIGHT.CLUSTER);
    const own = load<f32>(weights + (k << 2));
    const record = <usize>load<u32>(job, JOB.CLUSTER_RECORDS) + k * LIGHT.CLUSTER_BYTES;
    const rows = (load<i32>(record, 4) + 3) >> 2;
    weighRows(load<u32>(record), rows, p, n, weights);
    const within = total(weights, rows);
    return within > 0 ? (own / sum) * (load<f32>(weights + ((<usize>load<u32>(light, LIGHT.PLACE)) << 2)) / within) : 0;
  }
  const cdf: usize = load<u32>(job, JOB.LIGHT_CDF);
  return load<f32>(cdf + ((<usize>index) << 2)) - (index ? load<f32>(cdf + ((<usize>(index - 1)) << 2)) : <f32>0);
}
/** First place in n cumulative values that exceeds u. */
export function search(cdf: usize, n: i32, u: f32): i32 {
  let lo: i32 = 0;
  let hi = n - 1;
  while (lo < hi) {
    const mid = (lo + hi) >> 1;
    if (load<f32>(cdf + ((<usize>mid) << 2)) > u) hi = mid;
    else lo = mid + 1;
  }
  return lo;
}

/**
 * One light for point p with geometric normal n (0 where light from behind matters too), written to out; before
 * scattering and MIS. meets: rays that go on from here may meet suns and lamps. sum: of weighLights(). Returns false
 * where nothing arrives.
 */
export function sampleLight(
  job: usize,
  p: v128,
  n: v128,
  r: v128,
  meets: bool,
  out: usize,
  weights: usize,
  sum: f32,
): bool {
  const index = pick(job, p, n, Z(r), out, weights, sum);
  if (index < 0) return false;
  const light = <usize>load<u32>(job, JOB.LIGHTS) + <usize>index * LIGHT.BYTES;
  const found = sampleOf(job, index, p, r, meets, out);
  store<f32>(out, load<f32>(out, SAMPLE.DISTANCE), SAMPLE.REACH);
  // nothing stands in the way of a shadowless light, so scattered rays, which see what does, cannot stand in for its
  // samples
  if (load<u32>(light, LIGHT.SHADOWLESS)) {
    store<f32>(out, 0, SAMPLE.REACH);
    store<f32>(out, 0, SAMPLE.PDF);
  }
  return found;
}
/** Of the light that was picked; its probability stands at out, what is left of the random number at out + 4. */
function sampleOf(job: usize, index: i32, p: v128, r: v128, meets: bool, out: usize): bool {
  const prob = load<f32>(out);
  const left = load<f32>(out, 4);
  const light = <usize>load<u32>(job, JOB.LIGHTS) + <usize>index * LIGHT.BYTES;
  store<u32>(out, load<u32>(light, LIGHT.GROUP), SAMPLE.GROUP);
  store<u32>(out, 0, SAMPLE.INSTANCE);
  const type = load<u32>(light, LIGHT.TYPE);
  const radius = load<f32>(light, LIGHT.RADIUS);
  const one: f32 = 1;
  const two: f32 = 2;
  if (type == LIGHT.MESH) {
    const cdf: usize = load<u32>(light, LIGHT.TRIANGLE_CDF);
    const inst: usize = load<u32>(light, LIGHT.INSTANCE);
    const tri =
      <usize>load<u32>(light, LIGHT.TRIANGLES) +
      <usize>search(cdf, load<i32>(light, LIGHT.TRIANGLE_COUNT), left) * LTRI.BYTES;
    const s = sqrt<f32>(X(r));
    const u = s * (one - Y(r));
    const v = Y(r) * s;
    const e1 = load3(tri + 12);
    const e2 = load3(tri + 24);
    const to = sub(add(load3(tri), add(scale(e1, u), scale(e2, v))), p);
    const d2 = dot(to, to);
    const d = sqrt<f32>(d2);
    if (!(d > 0)) return false;
    const w = scale(to, one / d);
    const mat: usize = load<u32>(inst, INST.MATERIAL);
    let c = -dot(normalize(cross(e1, e2)), w) * load<f32>(tri, LTRI.SIDE);
    if (c < 0 && load<u32>(mat, MAT.FLAGS) & MAT.DOUBLE_SIDED) c = -c;
    if (c <= <f32>1e-6) return false;
    const pdf = (prob * d2) / (c * load<f32>(light, LIGHT.AREA));
    store<u32>(out, <u32>inst, SAMPLE.INSTANCE);
    store<f32>(out, sqrt<f32>(load<f32>(light, LIGHT.AREA)) / d, SAMPLE.ANGLE);
    const geometry: usize = load<u32>(inst, INST.GEOMETRY);
    const prim = load<u32>(tri, LTRI.PRIM);
    let L = emissionAt(job, mat, geometry, prim, u, v);
    const focus = load<f32>(mat, MAT.FOCUS);
    if (focus > 0) L = scale(L, Mathf.pow(c, focus));
    // what is not there gives no light: rays that are scattered there go through by chance, samples by the mean of it
    if (load<u32>(inst, INST.MASK) & INST.PIERCED) L = scale(L, alphaAt(mat, geometry, prim, u, v));
    v128.store(out, f32x4.replace_lane(w, 3, d * <f32>0.9999));
    v128.store(out, f32x4.replace_lane(scale(L, one / pdf), 3, pdf), 16);
    return true;
  }
  const k = sqrt<f32>(X(r));
  const phi: f32 = two * PI * Y(r);
  if (type == LIGHT.SUN) {
    store<f32>(out, two * radius, SAMPLE.ANGLE);
    const c = scale(load3(light + LIGHT.DIRECTION), -1);
    const w = normalize(disc(c, radius * k, phi, c));
    const cos = dot(w, c);
    v128.store(out, f32x4.replace_lane(w, 3, Infinity));
    v128.store(
      out,
      f32x4.replace_lane(
        scale(load3(light + LIGHT.COLOR), one / prob),
        3,
        meets && radius > 0 ? prob / (PI * radius * radius * cos * cos * cos) : 0,
      ),
      16,
    );
    return true;
  }
  const to = sub(load3(light + LIGHT.POSITION), p);
  const d2 = dot(to, to);
  const d = sqrt<f32>(d2);
  if (!(d > 0)) return false;
  store<f32>(out, (two * radius) / d, SAMPLE.ANGLE);
  const m = coneOf(d2, radius);
  const away = one - X(r) * m;
  const axis = scale(to, one / d);
  const w = normalize(disc(axis, sqrt<f32>(X(r) * m * (one + away)), phi, scale(axis, away)));
  // 2 π m steradians of 1 / (π radius²) each: 1 / d² where the ball is small or a point
  let power = two / (prob * (two - m) * max<f32>(d2, radius > 0 ? radius * radius : <f32>1e-6));
  if (type == LIGHT.SPOT) power *= spotShare(light, w);
  if (load<u32>(light, LIGHT.PROFILE)) power *= profileShare(light, w);
  if (!(power > 0)) return false;
  v128.store(out, f32x4.replace_lane(w, 3, d * away * <f32>0.9999));
  v128.store(
    out,
    f32x4.replace_lane(scale(load3(light + LIGHT.COLOR), power), 3, meets && radius > 0 ? prob / (two * PI * m) : 0),
    16,
  );
  return true;
}
/**
 * 1 − the cosine of half the angle under which a ball is seen from a distance given squared (Shirley, Wang and
 * Zimmerman 1996); from within it is met in half of all directions.
 */
// @ts-ignore
@inline function coneOf(d2: f32, radius: f32): f32 {
  const s = min<f32>((radius * radius) / d2, 1);
  return s / (<f32>1 + sqrt<f32>(<f32>1 - s));
}
/** KHR_lights_punctual: squared linear fall-off between the cones' cosines, for direction w towards the light. */
function spotShare(light: usize, w: v128): f32 {
  const ci = load<f32>(light, LIGHT.COS_INNER);
  const co = load<f32>(light, LIGHT.COS_OUTER);
  const f = min<f32>(max<f32>((-dot(load3(light + LIGHT.DIRECTION), w) - co) / max<f32>(ci - co, <f32>1e-4), 0), 1);
  return f * f;
}
/** Of a lamp whose light has a shape, for direction w towards it: bilinear in its table. */
function profileShare(light: usize, w: v128): f32 {
  const axis = load3(light + LIGHT.DIRECTION);
  const across = load3(light + LIGHT.ACROSS);
  const away = scale(w, -1);
  const one: f32 = 1;
  const row = (Mathf.acos(min<f32>(max<f32>(dot(axis, away), -1), 1)) / PI) * <f32>(LIGHT.PROFILE_ROWS - 1);
  const turn = Mathf.atan2(dot(cross(axis, across), away), dot(across, away)) / (<f32>2 * PI);
  const column = (turn - floor<f32>(turn)) * <f32>LIGHT.PROFILE_COLUMNS;
  const r0 = min<i32>(<i32>row, LIGHT.PROFILE_ROWS - 2);
  const c0 = <i32>column % LIGHT.PROFILE_COLUMNS;
  const c1 = (c0 + 1) % LIGHT.PROFILE_COLUMNS;
  const a = row - <f32>r0;
  const b = column - floor<f32>(column);
  const table: usize = load<u32>(light, LIGHT.PROFILE);
  const upper = table + <usize>(r0 * LIGHT.PROFILE_COLUMNS) * 4;
  const lower = upper + LIGHT.PROFILE_COLUMNS * 4;
  const x = load<f32>(upper + ((<usize>c0) << 2)) * (one - b) + load<f32>(upper + ((<usize>c1) << 2)) * b;
  const y = load<f32>(lower + ((<usize>c0) << 2)) * (one - b) + load<f32>(lower + ((<usize>c1) << 2)) * b;
  return x * (one - a) + y * a;
}
/**
 * What the ray from p along w meets of suns and lamps between distances from and t, scattered at a smooth surface of
 * normal n whose pdf is given (0: it was only sampled): the next of them from index on is written to out (radiance
 * already weighed) and its index returned, −1 where there is none. Suns are discs, lamps balls of even radiance; what
 * stands nearer than the middle of a ray's way through a ball hides it.
 * @param picked how likely a light sample there was of a light
 */
export function meetLamps(
  job: usize,
  p: v128,
  w: v128,
  from: f32,
  t: f32,
  n: v128,
  pdf: f32,
  index: i32,
  out: usize,
  weights: usize,
  picked: f32,
): i32 {
  const lights: usize = load<u32>(job, JOB.LIGHTS);
  const suns = load<i32>(job, JOB.SUNS);
  const end = suns + load<i32>(job, JOB.SPOTS) + load<i32>(job, JOB.POINTS);
  const one: f32 = 1;
  for (let i = index; i < end; i++) {
    const light = lights + <usize>i * LIGHT.BYTES;
    const radius = load<f32>(light, LIGHT.RADIUS);
    if (!(radius > 0) || (pdf > 0 && load<u32>(light, LIGHT.SHADOWLESS) != 0)) continue;
    let density: f32;
    let power: f32;
    let distance: f32 = Infinity;
    if (i < suns) {
      if (t < Infinity) continue;
      const c = scale(load3(light + LIGHT.DIRECTION), -1);
      const cos = dot(w, c);
      if (!(cos > 0)) continue;
      const off = sub(scale(w, one / cos), c);
      if (dot(off, off) > radius * radius) continue;
      density = one / (PI * radius * radius * cos * cos * cos);
      power = density;
    } else {
      const to = sub(load3(light + LIGHT.POSITION), p);
      const at = dot(w, to);
      if (!(at > 0) || at >= t || at < from) continue;
      const off = sub(scale(w, at), to);
      if (dot(off, off) > radius * radius) continue;
      distance = at;
      density = one / (<f32>2 * PI * coneOf(dot(to, to), radius));
      power = one / (PI * radius * radius);
      if (load<u32>(light, LIGHT.TYPE) == LIGHT.SPOT) power *= spotShare(light, w);
      if (load<u32>(light, LIGHT.PROFILE)) power *= profileShare(light, w);
      if (!(power > 0)) continue;
    }
    if (pdf > 0) {
      const other = picked * probability(job, i, p, n, weights) * density;
      power *= (pdf * pdf) / (pdf * pdf + other * other);
    }
    store<u32>(out, load<u32>(light, LIGHT.GROUP), SAMPLE.GROUP);
    store<f32>(out, distance, SAMPLE.DISTANCE);
    v128.store(out, scale(load3(light + LIGHT.COLOR), power), SAMPLE.RADIANCE);
    return i;
  }
  return -1;
}
/** Point at distance k and angle phi from centre, on the disc across the given unit axis. */
export function disc(axis: v128, k: f32, phi: f32, centre: v128): v128 {
  if (!(k > 0)) return centre;
  const other = abs<f32>(X(axis)) < <f32>0.7 ? vec(1, 0, 0) : vec(0, 1, 0);
  const t = normalize(cross(axis, other));
  const b = cross(axis, t);
  return add(centre, add(scale(t, k * Mathf.cos(phi)), scale(b, k * Mathf.sin(phi))));
}
/** Density per steradian with which sampleLight at p would have met a mesh light at distance d under cosine c. */
export function meshLightPdf(job: usize, index: i32, p: v128, n: v128, d: f32, c: f32, weights: usize): f32 {
  const light = <usize>load<u32>(job, JOB.LIGHTS) + <usize>index * LIGHT.BYTES;
  return (probability(job, index, p, n, weights) * d * d) / (max<f32>(c, <f32>1e-6) * load<f32>(light, LIGHT.AREA));
}

export function isShadowless(job: usize, index: i32): bool {
  return load<u32>(<usize>load<u32>(job, JOB.LIGHTS) + <usize>index * LIGHT.BYTES, LIGHT.SHADOWLESS) != 0;
}
export function groupOf(job: usize, index: i32): u32 {
  return load<u32>(<usize>load<u32>(job, JOB.LIGHTS) + <usize>index * LIGHT.BYTES, LIGHT.GROUP);
}
