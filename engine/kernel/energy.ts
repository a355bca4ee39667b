// How much light the microfacet lobes return, in tables filled once a job: so that white surfaces lose nothing and none
// gains.
//
// Isotropic GGX: albedo for reflectance F0 and F90 is F0·A + F90·B by cos θ and roughness, and its mean over the
// hemisphere by roughness. What single scattering loses, 1 − E with E = A + B, comes back as a diffuse-like lobe (1 −
// E(i))(1 − E(o)) / π(1 − mean E): reciprocal and exact (Kelemen & Szirmay-Kalos 2001; Kulla & Conty 2017). Stretched
// GGX has the same by cos θ, azimuth, roughness and strength. Sheen: albedo of the Charlie lobe. Rough glass: factors g
// by side, roughness and cos θ such that ∫ f g(i) g(o) = 1, found by Sinkhorn's iteration: reciprocal too. A coat or
// sheen over a GGX lobe weakens it by such factors as well, with what the layer lets through, 1 − E(i), in place of 1.
// For a mirror they come out as the root of 1 − E, for a wide lobe as 1 − E itself. Fits between those two were wrong
// by up to 6 % at grazing angles.
import * as TABLE from './energyLayout';
import { PI } from './microfacets';
import { vec, X, Y, Z } from './vec';

// @ts-ignore
@inline export function clamp01(x: f32): f32 {
  return min<f32>(max<f32>(x, 0), 1);
}
// @ts-ignore
@inline export function mix(a: f32, b: f32, t: f32): f32 {
  return a + (b - a) * t;
}

/** A and B (lanes 0 and 1) of isotropic GGX. */
export function albedo(tables: usize, cos: f32, roughness: f32): v128 {
  const x = clamp01(cos) * <f32>(TABLE.ISO - 1);
  const y = clamp01(roughness) * <f32>(TABLE.ISO - 1);
  const i = min<i32>(<i32>x, TABLE.ISO - 2);
  const j = min<i32>(<i32>y, TABLE.ISO - 2);
  const a = x - <f32>i;
  const b = y - <f32>j;
  const p = tables + <usize>j * TABLE.ISO_ROW + ((<usize>i) << 3);
  const q = p + TABLE.ISO_ROW;
  return vec(
    mix(mix(load<f32>(p), load<f32>(p, 8), a), mix(load<f32>(q), load<f32>(q, 8), a), b),
    mix(mix(load<f32>(p, 4), load<f32>(p, 12), a), mix(load<f32>(q, 4), load<f32>(q, 12), a), b),
    0,
  );
}
/** Their means over the hemisphere, weighted by the cosine. */
export function meanAlbedo(tables: usize, roughness: f32): v128 {
  const y = clamp01(roughness) * <f32>(TABLE.ISO - 1);
  const j = min<i32>(<i32>y, TABLE.ISO - 2);
  const b = y - <f32>j;
  const p = tables + TABLE.T_MEAN + ((<usize>j) << 3);
  return vec(mix(load<f32>(p), load<f32>(p, 8), b), mix(load<f32>(p, 4), load<f32>(p, 12), b), 0);
}
/** Albedo of the sheen lobe of colour 1. */
export function sheenAlbedo(tables: usize, cos: f32, roughness: f32): f32 {
  const x = clamp01(cos) * <f32>(TABLE.ISO - 1);
  const y = clamp01(roughness) * <f32>(TABLE.ISO - 1);
  const i = min<i32>(<i32>x, TABLE.ISO - 2);
  const j = min<i32>(<i32>y, TABLE.ISO - 2);
  const a = x - <f32>i;
  const b = y - <f32>j;
  const p = tables + TABLE.T_SHEEN + <usize>(j * TABLE.ISO + i) * 4;
  const q = p + TABLE.ISO * 4;
  return mix(mix(load<f32>(p), load<f32>(p, 4), a), mix(load<f32>(q), load<f32>(q, 4), a), b);
}
export function meanSheenAlbedo(tables: usize, roughness: f32): f32 {
  const y = clamp01(roughness) * <f32>(TABLE.ISO - 1);
  const j = min<i32>(<i32>y, TABLE.ISO - 2);
  const p = tables + TABLE.T_SHEEN_MEAN + ((<usize>j) << 2);
  return mix(load<f32>(p), load<f32>(p, 4), y - <f32>j);
}
/** As albedo, of GGX stretched along x; v: direction in the tangent frame. */
export function stretchedAlbedo(tables: usize, v: v128, roughness: f32, strength: f32): v128 {
  const phi = Mathf.atan2(abs<f32>(Y(v)), abs<f32>(X(v))) / (PI * <f32>0.5);
  const x = clamp01(Z(v)) * <f32>(TABLE.S_COS - 1);
  const f = clamp01(phi) * <f32>(TABLE.S_PHI - 1);
  const y = clamp01(roughness) * <f32>(TABLE.S_ROUGH - 1);
  const s = clamp01(strength) * <f32>(TABLE.S_STRENGTH - 1);
  const x0 = min<i32>(<i32>x, TABLE.S_COS - 2);
  const f0 = min<i32>(<i32>f, TABLE.S_PHI - 2);
  const y0 = min<i32>(<i32>y, TABLE.S_ROUGH - 2);
  const s0 = min<i32>(<i32>s, TABLE.S_STRENGTH - 2);
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
      TABLE.T_STRETCHED +
      ((<usize>(
        ((((s0 + ((k >> 3) & 1)) * TABLE.S_ROUGH + y0 + ((k >> 2) & 1)) * TABLE.S_PHI + f0 + ((k >> 1) & 1)) *
          TABLE.S_COS +
          x0 +
          (k & 1))
      )) <<
        3);
    A += w * load<f32>(p);
    B += w * load<f32>(p, 4);
  }
  return vec(A, B, 0);
}
export function meanStretchedAlbedo(tables: usize, roughness: f32, strength: f32): v128 {
  const y = clamp01(roughness) * <f32>(TABLE.S_ROUGH - 1);
  const s = clamp01(strength) * <f32>(TABLE.S_STRENGTH - 1);
  const y0 = min<i32>(<i32>y, TABLE.S_ROUGH - 2);
  const s0 = min<i32>(<i32>s, TABLE.S_STRENGTH - 2);
  const b = y - <f32>y0;
  const c = s - <f32>s0;
  const p = tables + TABLE.T_STRETCHED_MEAN + ((<usize>(s0 * TABLE.S_ROUGH + y0)) << 3);
  const q = p + TABLE.S_ROUGH * 8;
  return vec(
    mix(mix(load<f32>(p), load<f32>(p, 8), b), mix(load<f32>(q), load<f32>(q, 8), b), c),
    mix(mix(load<f32>(p, 4), load<f32>(p, 12), b), mix(load<f32>(q, 4), load<f32>(q, 12), b), c),
    0,
  );
}
/** Sides of glassFactor: 0 is outside of a solid, 1 inside. */
export const SHEET: i32 = 2;
export const BETWEEN: i32 = 3; // two solids: no table is of their ratio, so what rough ones lose is not found again
/** Factor of rough glass. */
export function glassFactor(table: usize, side: i32, cos: f32, roughness: f32): f32 {
  if (side == BETWEEN) return 1;
  const x = clamp01(cos) * <f32>(TABLE.G_COS - 1);
  const y = clamp01(roughness) * <f32>(TABLE.G_ROUGH - 1);
  const i = min<i32>(<i32>x, TABLE.G_COS - 2);
  const j = min<i32>(<i32>y, TABLE.G_ROUGH - 2);
  const a = x - <f32>i;
  const b = y - <f32>j;
  const p = table + <usize>((side * TABLE.G_ROUGH + j) * TABLE.G_COS + i) * 4;
  const q = p + TABLE.G_COS * 4;
  return mix(mix(load<f32>(p), load<f32>(p, 4), a), mix(load<f32>(q), load<f32>(q, 4), a), b);
}

/** Albedo of a whole layer of strength 1. */
export function layerAlbedo(tables: usize, kind: i32, cos: f32, roughness: f32): f32 {
  if (kind == TABLE.OVER_SHEEN) return sheenAlbedo(tables, cos, roughness);
  const ab = albedo(tables, cos, roughness);
  return TABLE.COAT_F0 * X(ab) + Y(ab);
}
/**
 * Factor, for one direction, by which a layer of a strength 0…1 weakens a GGX lobe below it. The other direction has
 * its own.
 */
export function layerFactor(tables: usize, kind: i32, strength: f32, roughness: f32, below: f32, cos: f32): f32 {
  const c = clamp01(strength) * <f32>TABLE.L_STRENGTH;
  const l = clamp01(roughness) * <f32>(TABLE.L_LAYER - 1);
  const r = clamp01(below) * <f32>(TABLE.L_BELOW - 1);
  const x = sqrt<f32>(clamp01(cos)) * <f32>(TABLE.L_COS - 1);
  const one: f32 = 1;
  const c0 = min<i32>(<i32>c, TABLE.L_STRENGTH - 1);
  const l0 = min<i32>(<i32>l, TABLE.L_LAYER - 2);
  const r0 = min<i32>(<i32>r, TABLE.L_BELOW - 2);
  const x0 = min<i32>(<i32>x, TABLE.L_COS - 2);
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
      TABLE.T_LAYER +
      <usize>kind * TABLE.LAYER_TABLE +
      <usize>((step * TABLE.L_LAYER + l0 + ((k >> 1) & 1)) * TABLE.L_BELOW + r0 + (k >> 2)) * TABLE.LAYER_ROW +
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
  const l = clamp01(roughness) * <f32>(TABLE.L_LAYER - 1);
  const r = clamp01(below) * <f32>(TABLE.L_BELOW - 1);
  const l0 = min<i32>(<i32>l, TABLE.L_LAYER - 2);
  const r0 = min<i32>(<i32>r, TABLE.L_BELOW - 2);
  const p = tables + TABLE.T_LAYER_LOST + ((<usize>((kind * TABLE.L_LAYER + l0) * TABLE.L_BELOW + r0)) << 2);
  const q = p + <usize>TABLE.L_BELOW * 4;
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

/** Unpolarised Fresnel reflectance; eta = n on this side / n beyond. */
export function fresnel(cos: f32, eta: f32): f32 {
  const s2 = eta * eta * (<f32>1 - cos * cos);
  if (s2 >= 1) return 1;
  const ct = sqrt<f32>(<f32>1 - s2);
  const a = (eta * cos - ct) / (eta * cos + ct);
  const b = (cos - eta * ct) / (cos + eta * ct);
  return <f32>0.5 * (a * a + b * b);
}
