// How much light the microfacet lobes return, in tables filled once a job: so that white surfaces lose nothing and none
// gains.
//
// Isotropic GGX: albedo for reflectance F0 and F90 is F0·A + F90·B by cos θ and roughness, and its mean over the
// hemisphere by roughness. What single scattering
// loses, 1 − E with E = A + B, comes back as a diffuse-like lobe (1 − E(i))(1 − E(o)) / π(1 − mean E): reciprocal and
// exact (Kelemen & Szirmay-Kalos 2001;
// Kulla & Conty 2017). Stretched GGX has the same by cos θ, azimuth, roughness and strength. Sheen: albedo of the
// Charlie lobe.
// Rough glass: factors g by side, roughness and cos θ such that ∫ f g(i) g(o) = 1, found by Sinkhorn's iteration:
// reciprocal too. A coat or sheen over a GGX lobe weakens
// it by such factors as well, with what the layer lets through, 1 − E(i), in place of 1. For a mirror they come out as
// the root of 1 − E, for a wide lobe as 1 − E itself.
// Fits between those two were wrong by up to 6 % at grazing angles.
import * as JOB from './layout/job';
import { PI, lambda2, visibleNormal2 } from './microfacets';
import { X, Y, Z, dot, scale, sub, vec } from './vec';

// Tables at JOB.TABLES (f32 each): isotropic A, B | means A, B | sheen | its means | coat over GGX, sheen over GGX |
// means of both over what GGX loses | stretched A, B | their means
export const ISO: i32 = 32;
export const ISO_ROW: usize = 32 * 8;
const T_MEAN: usize = 32 * 32 * 8;
const T_SHEEN: usize = T_MEAN + 32 * 8;
const T_SHEEN_MEAN: usize = T_SHEEN + 32 * 32 * 4;
const T_LAYER: usize = T_SHEEN_MEAN + 32 * 4;
/**
 * Kinds of layers, and the steps of a layer's table: strength without 0, the layer's roughness, that of the lobe below,
 * root of cos θ.
 */
export const OVER_COAT: i32 = 0;
export const OVER_SHEEN: i32 = 1;
const L_STRENGTH: i32 = 3;
const L_LAYER: i32 = 12;
const L_BELOW: i32 = 10;
const L_COS: i32 = 24;
const LAYER_ROW: usize = <usize>L_COS * 4;
const LAYER_TABLE: usize = <usize>(L_STRENGTH * L_LAYER * L_BELOW) * LAYER_ROW;
const T_LAYER_LOST: usize = T_LAYER + 2 * LAYER_TABLE;
const T_STRETCHED: usize = T_LAYER_LOST + <usize>(2 * L_LAYER * L_BELOW) * 4;
export const COAT_F0: f32 = 0.04;
const S_COS: i32 = 16;
const S_PHI: i32 = 8;
const S_ROUGH: i32 = 16;
const S_STRENGTH: i32 = 8;
const T_STRETCHED_MEAN: usize = T_STRETCHED + 16 * 8 * 16 * 8 * 8;
const G_COS: i32 = 48;
const G_ROUGH: i32 = 24;

// @ts-ignore
@inline function clamp01(x: f32): f32 {
  return min<f32>(max<f32>(x, 0), 1);
}
// @ts-ignore
@inline function mix(a: f32, b: f32, t: f32): f32 {
  return a + (b - a) * t;
}

/** A and B (lanes 0 and 1) of isotropic GGX. */
export function albedo(tables: usize, cos: f32, roughness: f32): v128 {
  const x = clamp01(cos) * <f32>(ISO - 1);
  const y = clamp01(roughness) * <f32>(ISO - 1);
  const i = min<i32>(<i32>x, ISO - 2);
  const j = min<i32>(<i32>y, ISO - 2);
  const a = x - <f32>i;
  const b = y - <f32>j;
  const p = tables + <usize>j * ISO_ROW + ((<usize>i) << 3);
  const q = p + ISO_ROW;
  return vec(
    mix(mix(load<f32>(p), load<f32>(p, 8), a), mix(load<f32>(q), load<f32>(q, 8), a), b),
    mix(mix(load<f32>(p, 4), load<f32>(p, 12), a), mix(load<f32>(q, 4), load<f32>(q, 12), a), b),
    0,
  );
}
/** Their means over the hemisphere, weighted by the cosine. */
export function meanAlbedo(tables: usize, roughness: f32): v128 {
  const y = clamp01(roughness) * <f32>(ISO - 1);
  const j = min<i32>(<i32>y, ISO - 2);
  const b = y - <f32>j;
  const p = tables + T_MEAN + ((<usize>j) << 3);
  return vec(mix(load<f32>(p), load<f32>(p, 8), b), mix(load<f32>(p, 4), load<f32>(p, 12), b), 0);
}
/** Albedo of the sheen lobe of colour 1. */
export function sheenAlbedo(tables: usize, cos: f32, roughness: f32): f32 {
  const x = clamp01(cos) * <f32>(ISO - 1);
  const y = clamp01(roughness) * <f32>(ISO - 1);
  const i = min<i32>(<i32>x, ISO - 2);
  const j = min<i32>(<i32>y, ISO - 2);
  const a = x - <f32>i;
  const b = y - <f32>j;
  const p = tables + T_SHEEN + <usize>(j * ISO + i) * 4;
  const q = p + ISO * 4;
  return mix(mix(load<f32>(p), load<f32>(p, 4), a), mix(load<f32>(q), load<f32>(q, 4), a), b);
}
export function meanSheenAlbedo(tables: usize, roughness: f32): f32 {
  const y = clamp01(roughness) * <f32>(ISO - 1);
  const j = min<i32>(<i32>y, ISO - 2);
  const p = tables + T_SHEEN_MEAN + ((<usize>j) << 2);
  return mix(load<f32>(p), load<f32>(p, 4), y - <f32>j);
}
/** As albedo, of GGX stretched along x; v: direction in the tangent frame. */
export function stretchedAlbedo(tables: usize, v: v128, roughness: f32, strength: f32): v128 {
  const phi = Mathf.atan2(abs<f32>(Y(v)), abs<f32>(X(v))) / (PI * <f32>0.5);
  const x = clamp01(Z(v)) * <f32>(S_COS - 1);
  const f = clamp01(phi) * <f32>(S_PHI - 1);
  const y = clamp01(roughness) * <f32>(S_ROUGH - 1);
  const s = clamp01(strength) * <f32>(S_STRENGTH - 1);
  const x0 = min<i32>(<i32>x, S_COS - 2);
  const f0 = min<i32>(<i32>f, S_PHI - 2);
  const y0 = min<i32>(<i32>y, S_ROUGH - 2);
  const s0 = min<i32>(<i32>s, S_STRENGTH - 2);
  const ax = x - <f32>x0;
  const af = f - <f32>f0;
  const ay = y - <f32>y0;
  const as_ = s - <f32>s0;
  const one: f32 = 1;
  let A: f32 = 0;
  let B: f32 = 0;
  for (let k: i32 = 0; k < 16; k++) {
    const w = (k & 1 ? ax : one - ax) * (k & 2 ? af : one - af) * (k & 4 ? ay : one - ay) * (k & 8 ? as_ : one - as_);
    const p =
      tables +
      T_STRETCHED +
      ((<usize>(
        ((((s0 + ((k >> 3) & 1)) * S_ROUGH + y0 + ((k >> 2) & 1)) * S_PHI + f0 + ((k >> 1) & 1)) * S_COS + x0 + (k & 1))
      )) <<
        3);
    A += w * load<f32>(p);
    B += w * load<f32>(p, 4);
  }
  return vec(A, B, 0);
}
export function meanStretchedAlbedo(tables: usize, roughness: f32, strength: f32): v128 {
  const y = clamp01(roughness) * <f32>(S_ROUGH - 1);
  const s = clamp01(strength) * <f32>(S_STRENGTH - 1);
  const y0 = min<i32>(<i32>y, S_ROUGH - 2);
  const s0 = min<i32>(<i32>s, S_STRENGTH - 2);
  const b = y - <f32>y0;
  const c = s - <f32>s0;
  const p = tables + T_STRETCHED_MEAN + ((<usize>(s0 * S_ROUGH + y0)) << 3);
  const q = p + S_ROUGH * 8;
  return vec(
    mix(mix(load<f32>(p), load<f32>(p, 8), b), mix(load<f32>(q), load<f32>(q, 8), b), c),
    mix(mix(load<f32>(p, 4), load<f32>(p, 12), b), mix(load<f32>(q, 4), load<f32>(q, 12), b), c),
    0,
  );
}
/** Factor of rough glass. side: 0 outside, 1 inside, 2 thin sheet. */
export function glassFactor(table: usize, side: i32, cos: f32, roughness: f32): f32 {
  const x = clamp01(cos) * <f32>(G_COS - 1);
  const y = clamp01(roughness) * <f32>(G_ROUGH - 1);
  const i = min<i32>(<i32>x, G_COS - 2);
  const j = min<i32>(<i32>y, G_ROUGH - 2);
  const a = x - <f32>i;
  const b = y - <f32>j;
  const p = table + <usize>((side * G_ROUGH + j) * G_COS + i) * 4;
  const q = p + G_COS * 4;
  return mix(mix(load<f32>(p), load<f32>(p, 4), a), mix(load<f32>(q), load<f32>(q, 4), a), b);
}

/** Albedo of a whole layer of strength 1. */
export function layerAlbedo(tables: usize, kind: i32, cos: f32, roughness: f32): f32 {
  if (kind == OVER_SHEEN) return sheenAlbedo(tables, cos, roughness);
  const ab = albedo(tables, cos, roughness);
  return COAT_F0 * X(ab) + Y(ab);
}
/**
 * Factor, for one direction, by which a layer of a strength 0…1 weakens a GGX lobe below it. The other direction has
 * its own.
 */
export function layerFactor(tables: usize, kind: i32, strength: f32, roughness: f32, below: f32, cos: f32): f32 {
  const c = clamp01(strength) * <f32>L_STRENGTH;
  const l = clamp01(roughness) * <f32>(L_LAYER - 1);
  const r = clamp01(below) * <f32>(L_BELOW - 1);
  const x = sqrt<f32>(clamp01(cos)) * <f32>(L_COS - 1);
  const one: f32 = 1;
  const c0 = min<i32>(<i32>c, L_STRENGTH - 1);
  const l0 = min<i32>(<i32>l, L_LAYER - 2);
  const r0 = min<i32>(<i32>r, L_BELOW - 2);
  const x0 = min<i32>(<i32>x, L_COS - 2);
  const ac = c - <f32>c0;
  const al = l - <f32>l0;
  const ar = r - <f32>r0;
  const ax = x - <f32>x0;
  let h: f32 = 0;
  for (let k: i32 = 0; k < 8; k++) {
    const w = (k & 1 ? ac : one - ac) * (k & 2 ? al : one - al) * (k & 4 ? ar : one - ar);
    const step = c0 + (k & 1) - 1;
    if (!(w > 0)) continue;
    if (step < 0) {
      h += w;
      continue;
    } // no layer
    const p =
      tables +
      T_LAYER +
      <usize>kind * LAYER_TABLE +
      <usize>((step * L_LAYER + l0 + ((k >> 1) & 1)) * L_BELOW + r0 + (k >> 2)) * LAYER_ROW +
      ((<usize>x0) << 2);
    h += w * mix(load<f32>(p), load<f32>(p, 4), ax);
  }
  return h * sqrt<f32>(max<f32>(one - strength * layerAlbedo(tables, kind, cos, roughness), 0));
}
/**
 * Mean albedo of a whole layer of strength 1, weighted by what a GGX lobe below it loses: by it the lost and found
 * energy is made up for.
 */
export function layerMean(tables: usize, kind: i32, roughness: f32, below: f32): f32 {
  const l = clamp01(roughness) * <f32>(L_LAYER - 1);
  const r = clamp01(below) * <f32>(L_BELOW - 1);
  const l0 = min<i32>(<i32>l, L_LAYER - 2);
  const r0 = min<i32>(<i32>r, L_BELOW - 2);
  const p = tables + T_LAYER_LOST + ((<usize>((kind * L_LAYER + l0) * L_BELOW + r0)) << 2);
  const q = p + <usize>L_BELOW * 4;
  return mix(
    mix(load<f32>(p), load<f32>(p, 4), r - <f32>r0),
    mix(load<f32>(q), load<f32>(q, 4), r - <f32>r0),
    l - <f32>l0,
  );
}

/**
 * Width of GGX along the tangent and across it: roughness squared, the first drawn towards 1 by strength
 * (KHR_materials_anisotropy).
 */
// @ts-ignore
@inline export function alphaOf(roughness: f32): f32 {
  return max<f32>(roughness * roughness, <f32>0.0004);
}
// @ts-ignore
@inline export function stretchedAlpha(roughness: f32, strength: f32): f32 {
  return mix(alphaOf(roughness), 1, strength * strength);
}

/**
 * A and B for one direction, by visible normals on a grid (deterministic). Rings are closer together towards the rim,
 * where normals begin to send light below the
 * horizon: an even grid of 24 × 24 was wrong by 1.2 % at roughness 0.4, this one of n × 16 by 0.1 % at most.
 */
function integrate(v: v128, ax: f32, ay: f32, n: i32): v128 {
  const lv = lambda2(v, ax, ay);
  const half: f32 = 0.5;
  const N: i32 = 16;
  let A: f64 = 0;
  let B: f64 = 0;
  let sum: f64 = 0;
  for (let a: i32 = 0; a < n; a++) {
    const t = <f32>1 - (<f32>a + half) / <f32>n;
    const w: f64 = t * t;
    const r1 = <f32>1 - t * t * t;
    sum += w * <f64>N;
    for (let b: i32 = 0; b < N; b++) {
      const h = visibleNormal2(v, ax, ay, r1, (<f32>b + half) / <f32>N);
      const c = dot(v, h);
      const o = sub(scale(h, <f32>2 * c), v);
      if (Z(o) <= 0) continue;
      const g: f64 = w * <f64>((<f32>1 + lv) / (<f32>1 + lv + lambda2(o, ax, ay)));
      const m = <f32>1 - max<f32>(c, 0);
      const k: f64 = m * m * m * m * m;
      A += g * (1 - k);
      B += g * k;
    }
  }
  return vec(<f32>(A / sum), <f32>(B / sum), 0);
}
/**
 * Mean, weighted by the cosine, of values at n cosines evenly from 0 to 1, taken as joined by straight lines: ∫ 2 c
 * E(c) dc.
 */
function mean(p: usize, n: i32, stride: usize): f32 {
  let sum: f64 = 0;
  const h: f64 = 1.0 / <f64>(n - 1);
  for (let i: i32 = 0; i < n - 1; i++) {
    const a: f64 = load<f32>(p + <usize>i * stride);
    const b: f64 = load<f32>(p + <usize>(i + 1) * stride);
    const c: f64 = <f64>i * h;
    sum += h * (a * (c + h / 3) + b * (c + (2 * h) / 3)); // 2 ∫ (c + t h)(a (1 − t) + b t) h dt
  }
  return <f32>sum;
}
// @ts-ignore
@inline function cosineOf(i: i32, n: i32): f32 {
  return max<f32>(<f32>i / <f32>(n - 1), <f32>0.004);
}

/** Smith-like shadowing of sheen (Estevez & Kulla 2017), a fit over cos θ. */
function sheenFit(x: f32, alpha: f32): f32 {
  const one: f32 = 1;
  const t = (one - alpha) * (one - alpha);
  const a = mix(<f32>21.5473, <f32>25.3245, t);
  const b = mix(<f32>3.82987, <f32>3.32435, t);
  const c = mix(<f32>0.19823, <f32>0.16801, t);
  const d = mix(<f32>-1.9776, <f32>-1.27393, t);
  const e = mix(<f32>-4.32054, <f32>-4.85967, t);
  return a / (one + b * Mathf.pow(x, c)) + d * x + e;
}
function sheenLambda(cos: f32, alpha: f32): f32 {
  const half: f32 = 0.5;
  return cos < half
    ? Mathf.exp(sheenFit(cos, alpha))
    : Mathf.exp(<f32>2 * sheenFit(half, alpha) - sheenFit(<f32>1 - cos, alpha));
}
/** Charlie sheen f · cos θo for colour 1 (Estevez & Kulla 2017). Directions in the tangent frame; roughness 0…1. */
export function sheenLobe(i: v128, o: v128, h: v128, roughness: f32): f32 {
  const alpha = max<f32>(roughness * roughness, <f32>0.01);
  const inv: f32 = <f32>1 / alpha;
  const sin2 = max<f32>(<f32>1 - Z(h) * Z(h), <f32>1e-6);
  const ci = max<f32>(Z(i), <f32>1e-4);
  const co = max<f32>(Z(o), <f32>1e-4);
  const one: f32 = 1;
  const two: f32 = 2;
  const D = ((two + inv) * Mathf.pow(sin2, inv * <f32>0.5)) / (two * PI);
  return D / ((one + sheenLambda(ci, alpha) + sheenLambda(co, alpha)) * <f32>4 * ci);
}

/** Bytes of the tables, with or without those of stretched lobes. */
export function energyTableBytes(stretched: i32): i32 {
  return <i32>(stretched ? T_STRETCHED_MEAN + S_ROUGH * S_STRENGTH * 8 : T_STRETCHED);
}
export function glassTableBytes(): i32 {
  return 3 * G_ROUGH * G_COS * 4;
}

/** scratch: 4 KB to work in. */
export function fillEnergyTables(tables: usize, stretched: i32, scratch: usize): void {
  for (let j: i32 = 0; j < ISO; j++) {
    const roughness = <f32>j / <f32>(ISO - 1);
    const alpha = alphaOf(roughness);
    const row = tables + <usize>j * ISO_ROW;
    for (let i: i32 = 0; i < ISO; i++) {
      const z = cosineOf(i, ISO);
      const ab = integrate(vec(sqrt<f32>(<f32>1 - z * z), 0, z), alpha, alpha, 32);
      store<f32>(row + ((<usize>i) << 3), X(ab));
      store<f32>(row + ((<usize>i) << 3), Y(ab), 4);
    }
    store<f32>(tables + T_MEAN + ((<usize>j) << 3), mean(row, ISO, 8));
    store<f32>(tables + T_MEAN + ((<usize>j) << 3), mean(row + 4, ISO, 8), 4);
    const sheen = tables + T_SHEEN + <usize>j * ISO * 4;
    const N: i32 = 32;
    const half: f32 = 0.5;
    for (let i: i32 = 0; i < ISO; i++) {
      const z = cosineOf(i, ISO);
      const v = vec(sqrt<f32>(<f32>1 - z * z), 0, z);
      let sum: f64 = 0;
      for (let a: i32 = 0; a < N; a++)
        for (let b: i32 = 0; b < N; b++) {
          // even over the hemisphere: density 1/2π
          const c = (<f32>a + half) / <f32>N;
          const s = sqrt<f32>(<f32>1 - c * c);
          const phi = (PI * (<f32>b + half)) / <f32>N;
          const o = vec(s * Mathf.cos(phi), s * Mathf.sin(phi), c);
          const x = X(v) + X(o);
          const y = Y(v) + Y(o);
          const w = Z(v) + Z(o);
          const l: f32 = <f32>1 / sqrt<f32>(x * x + y * y + w * w);
          sum += <f64>sheenLobe(v, o, vec(x * l, y * l, w * l), roughness);
        }
      store<f32>(sheen + ((<usize>i) << 2), min<f32>(<f32>((sum * 2 * <f64>PI) / <f64>(N * N)), 1));
    }
    store<f32>(tables + T_SHEEN_MEAN + ((<usize>j) << 2), mean(sheen, ISO, 4));
  }
  fillLayers(tables, scratch);
  if (!stretched) return;
  for (let s: i32 = 0; s < S_STRENGTH; s++)
    for (let j: i32 = 0; j < S_ROUGH; j++) {
      const roughness = <f32>j / <f32>(S_ROUGH - 1);
      const ax = stretchedAlpha(roughness, <f32>s / <f32>(S_STRENGTH - 1));
      const ay = alphaOf(roughness);
      const block = tables + T_STRETCHED + <usize>((s * S_ROUGH + j) * S_PHI * S_COS) * 8;
      let meanA: f32 = 0;
      let meanB: f32 = 0;
      for (let f: i32 = 0; f < S_PHI; f++) {
        const phi = (PI * <f32>0.5 * <f32>f) / <f32>(S_PHI - 1);
        const row = block + <usize>(f * S_COS) * 8;
        const w: f32 = (f == 0 || f == S_PHI - 1 ? <f32>0.5 : <f32>1) / <f32>(S_PHI - 1);
        for (let i: i32 = 0; i < S_COS; i++) {
          const z = cosineOf(i, S_COS);
          const r = sqrt<f32>(<f32>1 - z * z);
          const ab = integrate(vec(r * Mathf.cos(phi), r * Mathf.sin(phi), z), ax, ay, 16);
          store<f32>(row + ((<usize>i) << 3), X(ab));
          store<f32>(row + ((<usize>i) << 3), Y(ab), 4);
        }
        meanA += w * mean(row, S_COS, 8);
        meanB += w * mean(row + 4, S_COS, 8);
      }
      const m = tables + T_STRETCHED_MEAN + <usize>(s * S_ROUGH + j) * 8;
      store<f32>(m, meanA);
      store<f32>(m, meanB, 4);
    }
}

/** Unpolarised Fresnel reflectance; eta = n on this side / n beyond. */
export function fresnel(cos: f32, eta: f32): f32 {
  const s2 = eta * eta * (<f32>1 - cos * cos);
  if (s2 >= 1) return 1;
  const ct = sqrt<f32>(<f32>1 - s2);
  const a = (eta * cos - ct) / (eta * cos + ct);
  const b = (cos - eta * ct) / (cos + eta * ct);
  return <f32>0.5 * (a * a + b * b);
}
/** Adds w times the value that a table of n factors, joined by straight lines, has at x (0…1). */
// @ts-ignore
@inline function addTo(row: usize, n: i32, x: f32, w: f32): void {
  const at = clamp01(x) * <f32>(n - 1);
  const i = min<i32>(<i32>at, n - 2);
  const a = at - <f32>i;
  const p = row + ((<usize>i) << 2);
  store<f32>(p, load<f32>(p) + w * (<f32>1 - a));
  store<f32>(p, load<f32>(p, 4) + w * a, 4);
}
// @ts-ignore
@inline function product(row: usize, g: usize, n: i32): f32 {
  let sum: f32 = 0;
  for (let k: usize = 0, e = (<usize>n) << 2; k < e; k += 4) sum += load<f32>(row + k) * load<f32>(g + k);
  return sum;
}

/**
 * Factors of coats and sheen over GGX lobes. The integrals are linear in the factors sought, so they become a matrix
 * first, made once for all layers.
 */
function fillLayers(tables: usize, scratch: usize): void {
  const N: i32 = 32;
  const M: i32 = 16;
  const half: f32 = 0.5;
  const one: f32 = 1;
  const passed = scratch + <usize>(L_COS * L_COS) * 4;
  for (let j: i32 = 0; j < L_BELOW; j++) {
    const below = <f32>j / <f32>(L_BELOW - 1);
    const alpha = alphaOf(below);
    memory.fill(scratch, 0, <usize>(L_COS * L_COS + L_COS) * 4);
    for (let i: i32 = 0; i < L_COS; i++) {
      const z = layerCosine(i);
      const v = vec(sqrt<f32>(one - z * z), 0, z);
      const lv = lambda2(v, alpha, alpha);
      const row = scratch + <usize>i * LAYER_ROW;
      let total: f32 = 0;
      for (let a: i32 = 0; a < N; a++) {
        const s = one - (<f32>a + half) / <f32>N;
        total += s * s * <f32>M;
      }
      for (let a: i32 = 0; a < N; a++)
        for (let b: i32 = 0; b < M; b++) {
          const s = one - (<f32>a + half) / <f32>N;
          const h = visibleNormal2(v, alpha, alpha, one - s * s * s, (<f32>b + half) / <f32>M);
          const o = sub(scale(h, <f32>2 * dot(v, h)), v);
          if (!(Z(o) > 0)) continue;
          const w = (((s * s) / total) * (one + lv)) / (one + lv + lambda2(o, alpha, alpha));
          const p = passed + ((<usize>i) << 2);
          addTo(row, L_COS, sqrt<f32>(Z(o)), w);
          store<f32>(p, load<f32>(p) + w);
        }
    }
    for (let kind: i32 = 0; kind < 2; kind++)
      for (let l: i32 = 0; l < L_LAYER; l++) {
        const roughness = <f32>l / <f32>(L_LAYER - 1);
        let lost: f64 = 0;
        let below1: f64 = 0;
        let K: i32 = 64;
        for (let k: i32 = 0; k < K; k++) {
          const c = (<f32>k + half) / <f32>K;
          const ab = albedo(tables, c, below);
          const d: f64 = <f64>(c * (one - X(ab) - Y(ab)));
          lost += d * <f64>layerAlbedo(tables, kind, c, roughness);
          below1 += d;
        }
        store<f32>(
          tables + T_LAYER_LOST + ((<usize>((kind * L_LAYER + l) * L_BELOW + j)) << 2),
          below1 > 1e-9 ? <f32>(lost / below1) : 0,
        );
        for (let c: i32 = 0; c < L_STRENGTH; c++) {
          const strength = <f32>(c + 1) / <f32>L_STRENGTH;
          const g = tables + T_LAYER + <usize>kind * LAYER_TABLE + <usize>((c * L_LAYER + l) * L_BELOW + j) * LAYER_ROW;
          for (let i: i32 = 0; i < L_COS; i++)
            store<f32>(
              g + ((<usize>i) << 2),
              sqrt<f32>(max<f32>(one - strength * layerAlbedo(tables, kind, layerCosine(i), roughness), 0)),
            );
          for (let turn: i32 = 0; turn < 40; turn++)
            for (let i: i32 = 0; i < L_COS; i++) {
              const p = g + ((<usize>i) << 2);
              const I = product(scratch + <usize>i * LAYER_ROW, g, L_COS);
              const wanted =
                load<f32>(passed + ((<usize>i) << 2)) *
                max<f32>(one - strength * layerAlbedo(tables, kind, layerCosine(i), roughness), 0);
              if (I > <f32>1e-6) store<f32>(p, sqrt<f32>((load<f32>(p) * wanted) / I));
            }
          // kept as multiples of the root, which is steep at grazing angles and known exactly
          for (let i: i32 = 0; i < L_COS; i++) {
            const p = g + ((<usize>i) << 2);
            const root = sqrt<f32>(one - strength * layerAlbedo(tables, kind, layerCosine(i), roughness));
            store<f32>(p, root > <f32>0.01 ? load<f32>(p) / root : 1);
          }
        }
      }
  }
}
function layerCosine(i: i32): f32 {
  const x = <f32>i / <f32>(L_COS - 1);
  return max<f32>(x * x, <f32>0.001);
}

/**
 * Fills the factors of glass of one index of refraction, until none changes by more than 10⁻⁶. scratch: 56 KB to work
 * in.
 */
export function fillGlassTable(table: usize, ior: f32, scratch: usize): void {
  const half: f32 = 0.5;
  const one: f32 = 1;
  const ROW: usize = <usize>G_COS * 8;
  const count = 3 * G_ROUGH * G_COS; // a row: factors of the side of arrival, then of the other
  for (let i: i32 = 0; i < count; i++) store<f32>(table + ((<usize>i) << 2), 1);
  for (let j: i32 = 0; j < G_ROUGH; j++) {
    const alpha = alphaOf(<f32>j / <f32>(G_ROUGH - 1));
    const N: i32 = j < 8 ? 24 : 48;
    const M: i32 = j < 8 ? 16 : 32; // narrow lobes need fewer
    memory.fill(scratch, 0, 3 * <usize>G_COS * ROW);
    for (let side: i32 = 0; side < 3; side++)
      for (let i: i32 = 0; i < G_COS; i++) {
        const z = cosineOf(i, G_COS);
        const v = vec(sqrt<f32>(one - z * z), 0, z);
        const lv = lambda2(v, alpha, alpha);
        const eta = side == 1 ? ior : one / ior;
        const row = scratch + <usize>(side * G_COS + i) * ROW;
        let total: f32 = 0;
        for (let a: i32 = 0; a < N; a++) {
          const s = one - (<f32>a + half) / <f32>N;
          total += s * s * <f32>M;
        }
        for (let a: i32 = 0; a < N; a++)
          for (let b: i32 = 0; b < M; b++) {
            const s = one - (<f32>a + half) / <f32>N;
            const w = (s * s) / total; // rings as in integrate()
            const h = visibleNormal2(v, alpha, alpha, one - s * s * s, (<f32>b + half) / <f32>M);
            const c = dot(v, h);
            const F = fresnel(c, eta);
            const o = sub(scale(h, <f32>2 * c), v);
            if (Z(o) > 0)
              addTo(row, G_COS, Z(o), (w * (side == 2 ? one : F) * (one + lv)) / (one + lv + lambda2(o, alpha, alpha)));
            if (side == 2 || F >= 1) continue;
            const ct = sqrt<f32>(max<f32>(one - eta * eta * (one - c * c), 0));
            const t = sub(scale(h, eta * c - ct), scale(v, eta));
            if (Z(t) < 0)
              addTo(
                row + ((<usize>G_COS) << 2),
                G_COS,
                -Z(t),
                (w * (one - F) * (one + lv)) / (one + lv + lambda2(t, alpha, alpha)),
              );
          }
      }
    for (let turn: i32 = 0; turn < 3000; turn++) {
      let most: f32 = 0;
      for (let side: i32 = 0; side < 3; side++)
        for (let i: i32 = 0; i < G_COS; i++) {
          const own = table + <usize>((side * G_ROUGH + j) * G_COS) * 4;
          const p = own + ((<usize>i) << 2);
          const row = scratch + <usize>(side * G_COS + i) * ROW;
          const g = load<f32>(p);
          let I = product(row, own, G_COS);
          if (side < 2)
            I += product(row + ((<usize>G_COS) << 2), table + <usize>(((1 - side) * G_ROUGH + j) * G_COS) * 4, G_COS);
          if (!(I > <f32>1e-4)) continue;
          const next = min<f32>(sqrt<f32>(g / I), 12);
          most = max<f32>(most, abs<f32>(next - g));
          store<f32>(p, next);
        }
      if (most < <f32>1e-6) break;
    }
  }
}
