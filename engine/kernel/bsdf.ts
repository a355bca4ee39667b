// How a surface scatters: the layers of glTF's material model, from the top
//   coat (GGX, index 1.5) over sheen (Charlie) over the base: GGX with what its single scattering loses | diffuse | glass, solid or thin.
// Everything is reciprocal. A layer of albedo E weakens what is below it: diffuse lobes by (1 − E(i))(1 − E(o)) / (1 −
// mean E), which returns exactly what the layer lets
// through; GGX lobes by tables of factors (energy.ts). What crosses glass is weakened by the lesser of 1 − E(i) and 1 −
// E(o), which never gains.
//
// Lobes come in two groups, told apart because an environment seen in reflections may differ from the one that lights:
// spread by the cosine (diffuse,
// lost and found energy, sheen), and sharp (GGX, coat, glass). Glass so smooth that no light sample would meet it is
// only ever sampled (SURFACE.CLEAR).
import * as CLEAR from './clear';
import * as JOB from './layout/job';
import * as KIND from './kinds';
import * as MAT from './layout/material';
import * as SURFACE from './record';
import {
  COAT_F0,
  OVER_COAT,
  OVER_SHEEN,
  albedo,
  alphaOf,
  fresnel,
  glassFactor,
  layerFactor,
  layerMean,
  meanAlbedo,
  meanSheenAlbedo,
  meanStretchedAlbedo,
  sheenAlbedo,
  sheenLobe,
  stretchedAlbedo,
  stretchedAlpha,
} from './energy';
import { INV_PI, PI, ggx2, lambda2, visibleNormal2 } from './microfacets';
import { setFrameAt } from './record';
import { X, Y, Z, add, dot, load3, luminance, maxOf, mul, normalize, scale, store3, sub, vec } from './vec';

// @ts-ignore
@inline function schlick(F0: v128, F90: f32, cos: f32): v128 {
  const m = <f32>1 - cos;
  const m2 = m * m;
  const k = m2 * m2 * m;
  return add(F0, scale(sub(scale(vec(1, 1, 1), F90), F0), k));
}
// @ts-ignore
@inline function square(x: f32): f32 {
  return x * x;
}

/**
 * Sensitivity of the colour matching functions in Fourier space, to linear Rec.709 (Belcour & Barla 2017, as in
 * KHR_materials_iridescence).
 */
function sensitivity(opdM: f32, shift: v128): v128 {
  const phase: f32 = <f32>2 * PI * opdM;
  const p2 = phase * phase;
  const x =
    <f32>5.4856e-13 *
      sqrt<f32>(<f32>2 * PI * <f32>4.3278e9) *
      Mathf.cos(<f32>1.681e6 * phase + X(shift)) *
      Mathf.exp(-p2 * <f32>4.3278e9) +
    <f32>9.747e-14 *
      sqrt<f32>(<f32>2 * PI * <f32>4.5282e9) *
      Mathf.cos(<f32>2.2399e6 * phase + X(shift)) *
      Mathf.exp(<f32>-4.5282e9 * p2);
  const y =
    <f32>4.4201e-13 *
    sqrt<f32>(<f32>2 * PI * <f32>9.3046e9) *
    Mathf.cos(<f32>1.7953e6 * phase + Y(shift)) *
    Mathf.exp(-p2 * <f32>9.3046e9);
  const z =
    <f32>5.2481e-13 *
    sqrt<f32>(<f32>2 * PI * <f32>6.6121e9) *
    Mathf.cos(<f32>2.2084e6 * phase + Z(shift)) *
    Mathf.exp(-p2 * <f32>6.6121e9);
  const k: f32 = 1.0 / 1.0685e-7;
  return scale(
    vec(
      <f32>3.2404542 * x - <f32>1.5371385 * y - <f32>0.4985314 * z,
      <f32>-0.969266 * x + <f32>1.8760108 * y + <f32>0.041556 * z,
      <f32>0.0556434 * x - <f32>0.2040259 * y + <f32>1.0572252 * z,
    ),
    k,
  );
}
/** Reflectance of a thin film over a base of reflectance F0. */
function thinFilm(cos: f32, filmIor: f32, nm: f32, F0: v128): v128 {
  const one: f32 = 1;
  const e = nm < 30 ? nm / 30 : one;
  const smooth = e * e * (<f32>3 - <f32>2 * e);
  const ior = one + (filmIor - one) * smooth; // a film of no thickness is none
  const s2 = square(one / ior) * (one - cos * cos);
  if (s2 >= 1) return vec(1, 1, 1);
  const c2 = sqrt<f32>(one - s2);
  const R0 = square((ior - one) / (ior + one));
  const R12 = X(schlick(vec(R0, 0, 0), one, cos));
  const T121 = one - R12;
  const phi12: f32 = ior < 1 ? PI : 0;
  const phi21 = PI - phi12;
  const cap = f32x4.pmin(F0, vec(<f32>0.9999, <f32>0.9999, <f32>0.9999));
  const root = f32x4.replace_lane(f32x4.sqrt(cap), 3, 0);
  const b = vec(
    (one + X(root)) / (one - X(root)),
    (one + Y(root)) / (one - Y(root)),
    (one + Z(root)) / (one - Z(root)),
  );
  const r = vec((X(b) - ior) / (X(b) + ior), (Y(b) - ior) / (Y(b) + ior), (Z(b) - ior) / (Z(b) + ior));
  const R23 = schlick(mul(r, r), one, c2);
  const phi23 = vec(X(b) < ior ? PI : 0, Y(b) < ior ? PI : 0, Z(b) < ior ? PI : 0);
  const opd: f32 = <f32>2 * ior * nm * <f32>1e-9 * c2;
  const phi = add(vec(phi21, phi21, phi21), phi23);
  const R123 = scale(R23, R12);
  const r123 = f32x4.replace_lane(f32x4.sqrt(R123), 3, 0);
  const T2 = T121 * T121;
  const Rs = vec((T2 * X(R23)) / (one - X(R123)), (T2 * Y(R23)) / (one - Y(R123)), (T2 * Z(R23)) / (one - Z(R123)));
  let I = add(vec(R12, R12, R12), Rs);
  let C = sub(Rs, vec(T121, T121, T121));
  for (let m: f32 = 1; m <= 2; m += 1) {
    C = mul(C, r123);
    I = add(I, mul(C, scale(sensitivity(m * opd, scale(phi, m)), 2)));
  }
  return f32x4.replace_lane(f32x4.pmin(f32x4.pmax(I, f32x4.splat(0)), f32x4.splat(1)), 3, 0);
}
/** Fresnel reflectance of the base at cos. */
function reflectance(S: usize, cos: f32): v128 {
  const F = schlick(load3(S + SURFACE.F0), load<f32>(S, SURFACE.F90), cos);
  const k = load<f32>(S, SURFACE.IRIDESCENCE);
  if (!(k > 0)) return F;
  return add(
    scale(F, <f32>1 - k),
    scale(
      thinFilm(
        cos,
        load<f32>(load<u32>(S, SURFACE.MATERIAL), MAT.IRIDESCENCE_IOR),
        load<f32>(S, SURFACE.IRIDESCENCE_NM),
        load3(S + SURFACE.F0),
      ),
      k,
    ),
  );
}

// @ts-ignore
@inline function albedoAt(tables: usize, S: usize, v: v128): v128 {
  const roughness = load<f32>(S, SURFACE.ROUGHNESS);
  const strength = load<f32>(S, SURFACE.ANISOTROPY);
  return strength > 0 ? stretchedAlbedo(tables, v, roughness, strength) : albedo(tables, Z(v), roughness);
}
/**
 * Share of light that the base's dielectric reflection leaves to what is below it, for albedo A, B of the direction.
 */
// @ts-ignore
@inline function left(S: usize, ab: v128): f32 {
  const E = X(ab) + Y(ab);
  return max<f32>(
    <f32>1 -
      (load<f32>(S, SURFACE.F0_DIELECTRIC) * X(ab) +
        load<f32>(S, SURFACE.SPECULAR) * Y(ab) +
        load<f32>(S, SURFACE.MULTI_DIELECTRIC) * (<f32>1 - E)),
    0,
  );
}
/** Energy that single scattering loses and finds again: tint for mean albedo E of the lobe. */
// @ts-ignore
@inline function found(F0: f32, F90: f32, mean: f32): f32 {
  const F = F0 + (F90 - F0) * <f32>(1.0 / 21);
  return (F * F * mean) / (<f32>1 - F * (<f32>1 - mean));
}
/**
 * How much a layer of albedo Ei, Eo towards both directions, and mean M, lets through to a diffuse lobe below and out
 * again.
 */
// @ts-ignore
@inline function through(Ei: f32, Eo: f32, M: f32): f32 {
  return ((<f32>1 - Ei) * (<f32>1 - Eo)) / max<f32>(<f32>1 - M, <f32>1e-4);
}

/** Makes ready what evaluate() and scatter() need; out: unit direction back along the ray. */
export function prepare(job: usize, S: usize, out: v128): void {
  const tables: usize = load<u32>(job, JOB.TABLES);
  const one: f32 = 1;
  const zero: f32 = 0;
  const metallic = load<f32>(S, SURFACE.METALLIC);
  const roughness = load<f32>(S, SURFACE.ROUGHNESS);
  const strength = load<f32>(S, SURFACE.ANISOTROPY);
  const T = load<f32>(S, SURFACE.TRANSMISSION);
  const vi = load3(S + SURFACE.IN);
  const base = load3(S + SURFACE.BASE);
  const alpha = alphaOf(roughness);
  const ax = strength > 0 ? stretchedAlpha(roughness, strength) : alpha;
  store<f32>(S, ax, SURFACE.AX);
  store<f32>(S, alpha, SURFACE.AY);
  store<f32>(S, 0, SURFACE.MEDIUM);
  const dielectric = load3(S + SURFACE.SPECULAR_F0);
  const specular = load<f32>(S, SURFACE.SPECULAR);
  const F0 = add(scale(dielectric, one - metallic), scale(base, metallic));
  const F90 = specular * (one - metallic) + metallic;
  store3(S + SURFACE.F0, F0);
  store<f32>(S, F90, SURFACE.F90);
  const ab = albedoAt(tables, S, vi);
  const means = strength > 0 ? meanStretchedAlbedo(tables, roughness, strength) : meanAlbedo(tables, roughness);
  const E = X(ab) + Y(ab);
  const M = X(means) + Y(means);
  // what is below the dielectric's reflection loses what its brightest channel reflects
  let f0 = maxOf(dielectric);
  if (load<f32>(S, SURFACE.IRIDESCENCE) > 0) {
    const k = maxOf(reflectance(S, Z(vi)));
    f0 = max<f32>(f0, metallic < 1 ? k : f0);
  }
  const multi = found(f0, specular, M);
  store<f32>(S, f0, SURFACE.F0_DIELECTRIC);
  store<f32>(S, multi, SURFACE.MULTI_DIELECTRIC);
  const leftI = left(S, ab);
  const leftMean = max<f32>(one - (f0 * X(means) + specular * Y(means) + multi * (one - M)), <f32>1e-4);
  store<f32>(S, leftI, SURFACE.DIELECTRIC_I);
  const diffuse = scale(base, ((one - metallic) * (one - T) * leftI * INV_PI) / leftMean);
  store3(S + SURFACE.DIFFUSE, diffuse);
  const lost = ((one - T) * (one - E) * INV_PI) / max<f32>(one - M, <f32>1e-4);
  // metal and dielectric each for itself, as glTF mixes them: what is found again is not linear in reflectance
  const tint = add(
    scale(
      vec(found(X(dielectric), specular, M), found(Y(dielectric), specular, M), found(Z(dielectric), specular, M)),
      one - metallic,
    ),
    scale(vec(found(X(base), 1, M), found(Y(base), 1, M), found(Z(base), 1, M)), metallic),
  );
  store3(S + SURFACE.MULTI, scale(tint, lost));
  // layers above
  const coat = load<f32>(S, SURFACE.COAT);
  const sheen = maxOf(load3(S + SURFACE.SHEEN));
  let sharpest = T < 1 ? min<f32>(ax, alpha) : alpha;
  store<i32>(S, coat > 0 || sheen > 0 ? 1 : 0, SURFACE.LAYERED);
  let coatE: f32 = 0;
  let sheenE: f32 = 0;
  if (coat > 0) {
    const rough = load<f32>(S, SURFACE.COAT_ROUGHNESS);
    const n = load3(S + SURFACE.COAT_NORMAL);
    setFrameAt(S + SURFACE.COAT_TANGENT, S + SURFACE.COAT_BITANGENT, n);
    const v = vec(
      dot(load3(S + SURFACE.COAT_TANGENT), out),
      dot(load3(S + SURFACE.COAT_BITANGENT), out),
      max<f32>(dot(n, out), <f32>1e-4),
    );
    const m = meanAlbedo(tables, rough);
    store3(S + SURFACE.COAT_IN, v);
    coatE = coatAlbedo(tables, S, Z(v));
    store<f32>(S, coatE, SURFACE.COAT_E);
    store<f32>(S, coat * (COAT_F0 * X(m) + Y(m)), SURFACE.COAT_MEAN);
    sharpest = min<f32>(sharpest, alphaOf(rough));
  }
  if (sheen > 0) {
    const rough = load<f32>(S, SURFACE.SHEEN_ROUGHNESS);
    sheenE = sheen * sheenAlbedo(tables, Z(vi), rough);
    store<f32>(S, sheenE, SURFACE.SHEEN_E);
    store<f32>(S, sheen * meanSheenAlbedo(tables, rough), SURFACE.SHEEN_MEAN);
  }
  if (coat > 0 || sheen > 0) {
    store<f32>(S, layersSharp(tables, S, Z(load3(S + SURFACE.COAT_IN)), Z(vi)), SURFACE.LAYERS_I);
    store<f32>(S, (one - coatE) * (one - sheenE), SURFACE.LAYERS_SHARE);
  }
  store<f32>(S, sharpest, SURFACE.SHARP);
  const clearAs = load<u32>(load<u32>(S, SURFACE.MATERIAL), MAT.FLAGS) & MAT.PANE ? CLEAR.PANE : CLEAR.GLASS;
  store<i32>(S, T > 0 && alpha < <f32>MAT.CLEAR_ALPHA ? clearAs : 0, SURFACE.CLEAR);
  if (T > 0)
    store<f32>(
      S,
      glassFactor(load<u32>(load<u32>(S, SURFACE.MATERIAL), MAT.GLASS_TABLE), glassSide(S), Z(vi), roughness),
      SURFACE.GLASS_I,
    );
  // how likely each lobe is drawn: by its albedo, none that is there below a tenth
  const under = (one - coatE) * (one - sheenE);
  const spec = luminance(add(scale(F0, X(ab)), scale(vec(1, 1, 1), F90 * Y(ab)))) * (one - T) * under;
  const wide = (luminance(diffuse) * PI * leftMean + luminance(tint) * (one - E) * (one - T)) * under + sheenE;
  const sum = spec + wide + T * under + coatE;
  const floor: f32 = <f32>0.1 * sum;
  if (!(sum > 0)) {
    store<f32>(S, T < 1 ? 1 : 0, SURFACE.P_SPEC);
    store<f32>(S, 0, SURFACE.P_COSINE);
    store<f32>(S, 0, SURFACE.P_COAT);
    store<f32>(S, T < 1 ? 0 : 1, SURFACE.P_GLASS);
    return;
  }
  const a = T < 1 ? max<f32>(spec, floor) : zero;
  const b = wide > <f32>1e-6 ? max<f32>(wide, floor) : zero;
  const c = coat > 0 ? max<f32>(coatE, floor) : zero;
  const g = T > 0 ? max<f32>(T * under, floor) : zero;
  const total: f32 = one / (a + b + c + g);
  store<f32>(S, a * total, SURFACE.P_SPEC);
  store<f32>(S, b * total, SURFACE.P_COSINE);
  store<f32>(S, c * total, SURFACE.P_COAT);
  store<f32>(S, g * total, SURFACE.P_GLASS);
}
// @ts-ignore
@inline function isSolid(S: usize): bool {
  return (load<u32>(load<u32>(S, SURFACE.MATERIAL), MAT.FLAGS) & MAT.SOLID) != 0;
}
/** Side of glassFactor on which the ray arrives. */
// @ts-ignore
@inline function glassSide(S: usize): i32 {
  if (!isSolid(S)) return 2;
  return load<f32>(S, SURFACE.ETA) > 1 ? 1 : 0;
}
// @ts-ignore
@inline function glassEta(S: usize): f32 {
  return isSolid(S) ? load<f32>(S, SURFACE.ETA) : <f32>1 / load<f32>(load<u32>(S, SURFACE.MATERIAL), MAT.IOR);
}
// @ts-ignore
@inline function glassReflects(S: usize, cos: f32, eta: f32): f32 {
  // KHR_materials_specular also weakens the reflection of glass
  const F = fresnel(cos, eta);
  return F < 1 ? F * load<f32>(S, SURFACE.SPECULAR) : 1;
}
// @ts-ignore
@inline function coatAlbedo(tables: usize, S: usize, cos: f32): f32 {
  const ab = albedo(tables, cos, load<f32>(S, SURFACE.COAT_ROUGHNESS));
  return load<f32>(S, SURFACE.COAT) * (COAT_F0 * X(ab) + Y(ab));
}
// @ts-ignore
@inline function coatCosine(S: usize, w: v128): f32 {
  return abs<f32>(dot(load3(S + SURFACE.COAT_NORMAL), w));
}
/**
 * What the layers above let through of a diffuse lobe towards direction w (z: its cosine); lost: of what GGX loses and
 * finds again.
 */
function layersWide(tables: usize, S: usize, w: v128, z: f32, lost: bool): f32 {
  const coat = load<f32>(S, SURFACE.COAT);
  const sheen = maxOf(load3(S + SURFACE.SHEEN));
  const below = load<f32>(S, SURFACE.ROUGHNESS);
  let g: f32 = 1;
  if (coat > 0)
    g = through(
      load<f32>(S, SURFACE.COAT_E),
      coatAlbedo(tables, S, coatCosine(S, w)),
      lost
        ? coat * layerMean(tables, OVER_COAT, load<f32>(S, SURFACE.COAT_ROUGHNESS), below)
        : load<f32>(S, SURFACE.COAT_MEAN),
    );
  if (sheen > 0)
    g *= through(
      load<f32>(S, SURFACE.SHEEN_E),
      sheen * sheenAlbedo(tables, z, load<f32>(S, SURFACE.SHEEN_ROUGHNESS)),
      lost
        ? sheen * layerMean(tables, OVER_SHEEN, load<f32>(S, SURFACE.SHEEN_ROUGHNESS), below)
        : load<f32>(S, SURFACE.SHEEN_MEAN),
    );
  return g;
}
/** The layers' factor of one direction for a GGX lobe below. */
function layersSharp(tables: usize, S: usize, coatCos: f32, z: f32): f32 {
  const coat = load<f32>(S, SURFACE.COAT);
  const sheen = maxOf(load3(S + SURFACE.SHEEN));
  const below = load<f32>(S, SURFACE.ROUGHNESS);
  let g: f32 = 1;
  if (coat > 0) g = layerFactor(tables, OVER_COAT, coat, load<f32>(S, SURFACE.COAT_ROUGHNESS), below, coatCos);
  if (sheen > 0) g *= layerFactor(tables, OVER_SHEEN, sheen, load<f32>(S, SURFACE.SHEEN_ROUGHNESS), below, z);
  return g;
}
/** What the layers let through of light that crosses the surface to w. */
function layersAcross(tables: usize, S: usize, w: v128, z: f32): f32 {
  const sheen = maxOf(load3(S + SURFACE.SHEEN));
  const one: f32 = 1;
  let share: f32 = 1;
  if (load<f32>(S, SURFACE.COAT) > 0) share = one - coatAlbedo(tables, S, coatCosine(S, w));
  if (sheen > 0) share *= one - sheen * sheenAlbedo(tables, z, load<f32>(S, SURFACE.SHEEN_ROUGHNESS));
  return min<f32>(share, load<f32>(S, SURFACE.LAYERS_SHARE));
}

/** What a pane's colour and the layers on it leave of light that goes straight on. */
// @ts-ignore
@inline function tinted(S: usize): v128 {
  return scale(
    load3(S + SURFACE.BASE),
    load<f32>(S, SURFACE.TRANSMISSION) * (load<i32>(S, SURFACE.LAYERED) ? load<f32>(S, SURFACE.LAYERS_SHARE) : <f32>1),
  );
}
/**
 * What a pane lets through, straight on, of light along the direction of arrival. Nothing where the surface is none.
 */
export function straightOn(S: usize): v128 {
  return load<i32>(S, SURFACE.CLEAR) == CLEAR.PANE
    ? scale(tinted(S), <f32>1 - glassReflects(S, Z(load3(S + SURFACE.IN)), glassEta(S)))
    : vec(0, 0, 0);
}
/** Leaves f · cos and pdf per steradian for light from unit world direction w at SURFACE.FC and SURFACE.FS. */
export function evaluate(job: usize, S: usize, w: v128): void {
  const zero = f32x4.splat(0);
  const one: f32 = 1;
  const four: f32 = 4;
  v128.store(S, zero, SURFACE.FC);
  v128.store(S, zero, SURFACE.FS);
  if (load<f32>(S, SURFACE.MEDIUM) > 0) {
    // Henyey–Greenstein; SURFACE.IN holds the ray's direction, SURFACE.METALLIC the anisotropy
    const g = load<f32>(S, SURFACE.METALLIC);
    const k = one + g * g - <f32>2 * g * dot(load3(S + SURFACE.IN), w);
    const phase = (one - g * g) / (four * PI * k * sqrt<f32>(k));
    v128.store(S, f32x4.splat(phase), SURFACE.FC);
    return;
  }
  const vi = load3(S + SURFACE.IN);
  const vo = vec(
    dot(load3(S + SURFACE.TANGENT), w),
    dot(load3(S + SURFACE.BITANGENT), w),
    dot(load3(S + SURFACE.NORMAL), w),
  );
  const side = dot(load3(S + SURFACE.GEOMETRIC), w);
  const tables: usize = load<u32>(job, JOB.TABLES);
  const T = load<f32>(S, SURFACE.TRANSMISSION);
  const ax = load<f32>(S, SURFACE.AX);
  const ay = load<f32>(S, SURFACE.AY);
  const roughness = load<f32>(S, SURFACE.ROUGHNESS);
  const layered = load<i32>(S, SURFACE.LAYERED);
  if (side <= 0) {
    if (!(T > 0) || load<i32>(S, SURFACE.CLEAR) || Z(vo) >= <f32>-1e-6) return;
    const eta = glassEta(S);
    const lv = lambda2(vi, ay, ay);
    const lo = lambda2(vo, ay, ay);
    let h: v128, jacobian: f32;
    if (isSolid(S)) {
      h = normalize(scale(add(scale(vi, eta), vo), -1));
      if (Z(h) < 0) h = scale(h, -1);
      const ci = dot(vi, h);
      const co = dot(vo, h);
      const k = eta * ci + co;
      if (ci <= 0 || co >= 0 || !(k * k > <f32>1e-12)) return;
      jacobian = -co / (k * k);
    } else {
      h = normalize(add(vi, vec(X(vo), Y(vo), -Z(vo))));
      jacobian = one / (four * dot(vi, h));
    }
    const ci = dot(vi, h);
    const D = ggx2(h, ay, ay);
    const pass = (((one - glassReflects(S, ci, eta)) * D * ci) / Z(vi)) * jacobian;
    const g =
      load<f32>(S, SURFACE.GLASS_I) *
      glassFactor(
        load<u32>(load<u32>(S, SURFACE.MATERIAL), MAT.GLASS_TABLE),
        isSolid(S) ? 1 - glassSide(S) : 2,
        -Z(vo),
        roughness,
      ) *
      (layered ? layersAcross(tables, S, w, -Z(vo)) : one);
    v128.store(
      S,
      f32x4.replace_lane(
        scale(load3(S + SURFACE.BASE), (T * pass * g) / (one + lv + lo)),
        3,
        (load<f32>(S, SURFACE.P_GLASS) * pass) / (one + lv),
      ),
      SURFACE.FS,
    );
    return;
  }
  if (Z(vo) <= <f32>1e-6) return;
  const ab = albedoAt(tables, S, vo);
  const h = normalize(add(vi, vo));
  const cosH = max<f32>(dot(vi, h), 0);
  // spread by the cosine
  const E = X(ab) + Y(ab);
  const diffuse = scale(load3(S + SURFACE.DIFFUSE), left(S, ab));
  const multi = scale(load3(S + SURFACE.MULTI), max<f32>(one - E, 0));
  let wide = scale(
    layered
      ? add(scale(diffuse, layersWide(tables, S, w, Z(vo), false)), scale(multi, layersWide(tables, S, w, Z(vo), true)))
      : add(diffuse, multi),
    Z(vo),
  );
  // sharp
  const D = ggx2(h, ax, ay);
  const lv = lambda2(vi, ax, ay);
  const lo = lambda2(vo, ax, ay);
  let sharp = scale(reflectance(S, cosH), ((one - T) * D) / ((one + lv + lo) * four * Z(vi)));
  let pdf = (load<f32>(S, SURFACE.P_SPEC) * D) / ((one + lv) * four * Z(vi));
  if (T > 0 && !load<i32>(S, SURFACE.CLEAR)) {
    const Dg = ax == ay ? D : ggx2(h, ay, ay);
    const lvg = lambda2(vi, ay, ay);
    const F = glassReflects(S, cosH, glassEta(S));
    const g =
      load<f32>(S, SURFACE.GLASS_I) *
      glassFactor(load<u32>(load<u32>(S, SURFACE.MATERIAL), MAT.GLASS_TABLE), glassSide(S), Z(vo), roughness);
    sharp = add(sharp, scale(vec(1, 1, 1), (T * F * g * Dg) / ((one + lvg + lambda2(vo, ay, ay)) * four * Z(vi))));
    pdf += (load<f32>(S, SURFACE.P_GLASS) * F * Dg) / ((one + lvg) * four * Z(vi));
  }
  if (layered) {
    sharp = scale(sharp, load<f32>(S, SURFACE.LAYERS_I) * layersSharp(tables, S, coatCosine(S, w), Z(vo)));
    const sheen = load3(S + SURFACE.SHEEN);
    const coat = load<f32>(S, SURFACE.COAT);
    if (maxOf(sheen) > 0) {
      let f = sheenLobe(vi, vo, h, load<f32>(S, SURFACE.SHEEN_ROUGHNESS));
      if (coat > 0)
        f *= through(
          load<f32>(S, SURFACE.COAT_E),
          coatAlbedo(tables, S, max<f32>(dot(load3(S + SURFACE.COAT_NORMAL), w), 0)),
          load<f32>(S, SURFACE.COAT_MEAN),
        );
      wide = add(wide, scale(sheen, f));
    }
    if (coat > 0) {
      const ci = load3(S + SURFACE.COAT_IN);
      const co = vec(
        dot(load3(S + SURFACE.COAT_TANGENT), w),
        dot(load3(S + SURFACE.COAT_BITANGENT), w),
        dot(load3(S + SURFACE.COAT_NORMAL), w),
      );
      if (Z(co) > <f32>1e-6) {
        const alpha = alphaOf(load<f32>(S, SURFACE.COAT_ROUGHNESS));
        const hc = normalize(add(ci, co));
        const Dc = ggx2(hc, alpha, alpha);
        const lc = lambda2(ci, alpha, alpha);
        const k: f32 = Dc / (four * Z(ci));
        const F = X(schlick(vec(COAT_F0, 0, 0), one, max<f32>(dot(ci, hc), 0)));
        const f = (coat * F * k) / (one + lc + lambda2(co, alpha, alpha));
        sharp = add(sharp, vec(f, f, f));
        pdf += (load<f32>(S, SURFACE.P_COAT) * k) / (one + lc);
      }
    }
  }
  v128.store(S, f32x4.replace_lane(wide, 3, load<f32>(S, SURFACE.P_COSINE) * Z(vo) * INV_PI), SURFACE.FC);
  v128.store(S, f32x4.replace_lane(sharp, 3, pdf), SURFACE.FS);
}

// @ts-ignore
@inline function world(S: usize, t: usize, b: usize, n: usize, l: v128): v128 {
  return normalize(add(add(scale(load3(S + t), X(l)), scale(load3(S + b), Y(l))), scale(load3(S + n), Z(l))));
}

/**
 * Draws the next direction to SURFACE.OUT, with its weight f · cos / pdf, pdf (0 where no light sample could meet it)
 * and kind. r: three random numbers; pick: a fourth.
 */
export function scatter(job: usize, S: usize, r: v128, pick: f32): void {
  const one: f32 = 1;
  const two: f32 = 2;
  store<i32>(S, KIND.NONE, SURFACE.KIND);
  if (load<f32>(S, SURFACE.MEDIUM) > 0) {
    const g = load<f32>(S, SURFACE.METALLIC);
    const d = load3(S + SURFACE.IN);
    const phi: f32 = two * PI * Y(r);
    let cos = one - two * X(r);
    if (abs<f32>(g) > <f32>1e-3) {
      const q = (one - g * g) / (one - g + two * g * X(r));
      cos = (one + g * g - q * q) / (two * g);
    }
    const sin = sqrt<f32>(max<f32>(one - cos * cos, 0));
    setFrameAt(S + SURFACE.TANGENT, S + SURFACE.BITANGENT, d);
    const w = normalize(
      add(
        add(
          scale(load3(S + SURFACE.TANGENT), sin * Mathf.cos(phi)),
          scale(load3(S + SURFACE.BITANGENT), sin * Mathf.sin(phi)),
        ),
        scale(d, cos),
      ),
    );
    evaluate(job, S, w);
    store3(S + SURFACE.OUT, w);
    store3(S + SURFACE.WEIGHT, vec(1, 1, 1));
    store<f32>(S, f32x4.extract_lane(v128.load(S, SURFACE.FC), 3), SURFACE.PDF);
    store<i32>(S, KIND.DIFFUSE, SURFACE.KIND);
    return;
  }
  const vi = load3(S + SURFACE.IN);
  const pc = load<f32>(S, SURFACE.P_COSINE);
  const ps = load<f32>(S, SURFACE.P_SPEC);
  const pk = load<f32>(S, SURFACE.P_COAT);
  let w: v128, kind: i32;
  if (pick < pc) {
    const s = sqrt<f32>(X(r));
    const phi: f32 = two * PI * Y(r);
    w = world(
      S,
      SURFACE.TANGENT,
      SURFACE.BITANGENT,
      SURFACE.NORMAL,
      vec(s * Mathf.cos(phi), s * Mathf.sin(phi), sqrt<f32>(max<f32>(one - X(r), 0))),
    );
    kind = KIND.DIFFUSE;
  } else if (pick < pc + ps) {
    const h = visibleNormal2(vi, load<f32>(S, SURFACE.AX), load<f32>(S, SURFACE.AY), X(r), Y(r));
    w = world(S, SURFACE.TANGENT, SURFACE.BITANGENT, SURFACE.NORMAL, sub(scale(h, two * dot(vi, h)), vi));
    kind = KIND.SPECULAR;
  } else if (pick < pc + ps + pk) {
    const ci = load3(S + SURFACE.COAT_IN);
    const alpha = alphaOf(load<f32>(S, SURFACE.COAT_ROUGHNESS));
    const h = visibleNormal2(ci, alpha, alpha, X(r), Y(r));
    w = world(
      S,
      SURFACE.COAT_TANGENT,
      SURFACE.COAT_BITANGENT,
      SURFACE.COAT_NORMAL,
      sub(scale(h, two * dot(ci, h)), ci),
    );
    kind = KIND.SPECULAR;
  } else {
    const pg = load<f32>(S, SURFACE.P_GLASS);
    const alpha = load<f32>(S, SURFACE.AY);
    const h = visibleNormal2(vi, alpha, alpha, X(r), Y(r));
    const c = dot(vi, h);
    const eta = glassEta(S);
    const pane = load<i32>(S, SURFACE.CLEAR) == CLEAR.PANE;
    const F = glassReflects(S, pane ? Z(vi) : c, eta);
    const passes = Z(r) >= F;
    const mirrored = sub(scale(h, two * c), vi);
    if (pane && passes) {
      // drawn with the share that is not mirrored
      store3(S + SURFACE.OUT, world(S, SURFACE.TANGENT, SURFACE.BITANGENT, SURFACE.NORMAL, scale(vi, -1)));
      store3(S + SURFACE.WEIGHT, scale(tinted(S), one / pg));
      store<f32>(S, 0, SURFACE.PDF);
      store<i32>(S, KIND.STRAIGHT, SURFACE.KIND);
      return;
    }
    let out = mirrored;
    if (passes) {
      if (isSolid(S)) {
        const ct = sqrt<f32>(max<f32>(one - eta * eta * (one - c * c), 0));
        out = sub(scale(h, eta * c - ct), scale(vi, eta));
      } else out = vec(X(mirrored), Y(mirrored), -Z(mirrored)); // a thin sheet spreads, but does not bend
    }
    w = world(S, SURFACE.TANGENT, SURFACE.BITANGENT, SURFACE.NORMAL, out);
    kind = passes ? KIND.TRANSMITTED : KIND.SPECULAR;
    const side = dot(load3(S + SURFACE.GEOMETRIC), w);
    if (passes ? !(Z(out) < 0 && side < 0) : !(Z(out) > 0 && side > 0)) return;
    if (load<i32>(S, SURFACE.CLEAR)) {
      const lv = lambda2(vi, alpha, alpha);
      const lo = lambda2(out, alpha, alpha);
      const T = load<f32>(S, SURFACE.TRANSMISSION);
      const tables: usize = load<u32>(job, JOB.TABLES);
      let g = one;
      if (load<i32>(S, SURFACE.LAYERED)) {
        if (passes) g = layersAcross(tables, S, w, -Z(out));
        else g = load<f32>(S, SURFACE.LAYERS_I) * layersSharp(tables, S, coatCosine(S, w), Z(out));
      }
      store3(S + SURFACE.OUT, w);
      store3(
        S + SURFACE.WEIGHT,
        scale(passes ? load3(S + SURFACE.BASE) : vec(1, 1, 1), ((T / pg) * g * (one + lv)) / (one + lv + lo)),
      );
      store<f32>(S, 0, SURFACE.PDF);
      store<i32>(S, kind, SURFACE.KIND);
      return;
    }
  }
  if (kind != KIND.TRANSMITTED && dot(load3(S + SURFACE.GEOMETRIC), w) <= 0) return;
  evaluate(job, S, w);
  const fc = v128.load(S, SURFACE.FC);
  const fs = v128.load(S, SURFACE.FS);
  let f = f32x4.add(fc, fs);
  if (load<u32>(job, JOB.SPLIT)) f = kind == KIND.DIFFUSE ? fc : fs;
  const pdf = f32x4.extract_lane(f, 3);
  if (!(pdf > 0)) return;
  store3(S + SURFACE.OUT, w);
  store3(S + SURFACE.WEIGHT, scale(f, one / pdf));
  store<f32>(S, pdf, SURFACE.PDF);
  store<i32>(S, kind, SURFACE.KIND);
}
