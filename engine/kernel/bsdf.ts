// How a surface scatters: the layers of glTF's material model, from the top
//   coat (GGX, index 1.5) over sheen (Charlie) over the base: GGX with what its single scattering loses | diffuse |
// glass, solid or thin. Everything is reciprocal. A layer of albedo E weakens what is below it: diffuse lobes by (1 −
// E(i))(1 − E(o)) / (1 − mean E), which returns exactly what the layer lets through; GGX lobes by tables of factors
// (energy.ts). What crosses glass is weakened by the lesser of 1 − E(i) and 1 − E(o), which never gains.
//
// Lobes come in two groups, told apart because an environment seen in reflections may differ from the one that lights:
// spread by the cosine (diffuse, lost and found energy, sheen), and sharp (GGX, coat, glass). Glass so smooth that no
// light sample would meet it is only ever sampled (SURFACE.CLEAR).
import * as CLEAR from './clear';
import * as JOB from './layout/job';
import * as MAT from './layout/material';
import * as SURFACE from './record';
import {
  albedo,
  alphaOf,
  glassFactor,
  meanAlbedo,
  meanSheenAlbedo,
  meanStretchedAlbedo,
  sheenAlbedo,
  stretchedAlpha,
} from './energy';
import { COAT_F0 } from './energyLayout';
import { sheenLobe } from './sheenLobe';
import {
  coatAlbedo,
  coatCosine,
  glassEta,
  glassReflects,
  glassFarSide,
  glassSide,
  isSolid,
  layersAcross,
  layersSharp,
  layersWide,
} from './layers';
import { ggx2, INV_PI, lambda2, PI } from './microfacets';
import { setFrameAt } from './record';
import { albedoAt, found, left, reflectance, through } from './reflectance';
import { schlick } from './thinFilm';
import { add, dot, load3, luminance, maxOf, normalize, scale, store3, sub, vec, X, Y, Z } from './vec';

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

/** Leaves f · cos and pdf per steradian for light from unit world direction w at SURFACE.FC and SURFACE.FS. */
export function evaluate(job: usize, S: usize, w: v128): void {
  const zero = f32x4.splat(0);
  const one: f32 = 1;
  v128.store(S, zero, SURFACE.FC);
  v128.store(S, zero, SURFACE.FS);
  if (load<f32>(S, SURFACE.MEDIUM) > 0) {
    // Henyey–Greenstein; SURFACE.IN holds the ray's direction, SURFACE.METALLIC the anisotropy
    const g = load<f32>(S, SURFACE.METALLIC);
    const k = one + g * g - <f32>2 * g * dot(load3(S + SURFACE.IN), w);
    const phase = (one - g * g) / (<f32>4 * PI * k * sqrt<f32>(k));
    v128.store(S, f32x4.splat(phase), SURFACE.FC);
    return;
  }
  // What a bent surface sends to the wrong side of the smooth one, that one mirrors: none of its light is lost.
  // (V. Schüssler, E. Heitz, J. Hanika, C. Dachsbacher, “Microfacet-based Normal Mapping for Robust Monte Carlo Path
  // Tracing”, 2017, whose second facet is a mirror.) Nothing is sent there where the normal is not bent.
  const side = dot(load3(S + SURFACE.SMOOTH), w);
  const sent = mirrored(S, w, side);
  if (side > 0) {
    addReflected(job, S, w);
    addReflected(job, S, sent);
  } else if (load<f32>(S, SURFACE.TRANSMISSION) > 0 && !load<i32>(S, SURFACE.CLEAR)) {
    addCrossing(job, S, w);
    addCrossing(job, S, sent);
  }
}
/** The direction that the smooth surface mirrors to w, or from it. @param side w's cosine with its normal */
// @ts-ignore
@inline export function mirrored(S: usize, w: v128, side: f32): v128 {
  return sub(w, scale(load3(S + SURFACE.SMOOTH), <f32>2 * side));
}

// @ts-ignore
@inline function local(S: usize, w: v128): v128 {
  return vec(
    dot(load3(S + SURFACE.TANGENT), w),
    dot(load3(S + SURFACE.BITANGENT), w),
    dot(load3(S + SURFACE.NORMAL), w),
  );
}

/** Of light that crosses glass, added to what is there. */
function addCrossing(job: usize, S: usize, w: v128): void {
  const one: f32 = 1;
  const four: f32 = 4;
  const vi = load3(S + SURFACE.IN);
  const vo = local(S, w);
  const T = load<f32>(S, SURFACE.TRANSMISSION);
  if (Z(vo) >= <f32>-1e-6) return;
  const ay = load<f32>(S, SURFACE.AY);
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
      glassFarSide(S),
      -Z(vo),
      load<f32>(S, SURFACE.ROUGHNESS),
    ) *
    (load<i32>(S, SURFACE.LAYERED) ? layersAcross(load<u32>(job, JOB.TABLES), S, w, -Z(vo)) : one);
  const f = scale(load3(S + SURFACE.BASE), (T * pass * g) / (one + lv + lo));
  const pdf = (load<f32>(S, SURFACE.P_GLASS) * pass) / (one + lv);
  v128.store(S, f32x4.add(v128.load(S, SURFACE.FS), f32x4.replace_lane(f, 3, pdf)), SURFACE.FS);
}

/** Of light that leaves on the side that it came from, added to what is there. */
// @ts-ignore
@inline function addReflected(job: usize, S: usize, w: v128): void {
  const z = dot(load3(S + SURFACE.NORMAL), w);
  if (z > <f32>1e-6) addBase(job, S, w);
  if (load<f32>(S, SURFACE.COAT) > 0) addCoat(S, w);
}

/** Of what is under the coat: the sheen too. */
function addBase(job: usize, S: usize, w: v128): void {
  const one: f32 = 1;
  const four: f32 = 4;
  const vi = load3(S + SURFACE.IN);
  const vo = local(S, w);
  const tables: usize = load<u32>(job, JOB.TABLES);
  const T = load<f32>(S, SURFACE.TRANSMISSION);
  const ax = load<f32>(S, SURFACE.AX);
  const ay = load<f32>(S, SURFACE.AY);
  const roughness = load<f32>(S, SURFACE.ROUGHNESS);
  const layered = load<i32>(S, SURFACE.LAYERED);
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
  }
  wide = f32x4.replace_lane(wide, 3, load<f32>(S, SURFACE.P_COSINE) * Z(vo) * INV_PI);
  sharp = f32x4.replace_lane(sharp, 3, pdf);
  v128.store(S, f32x4.add(v128.load(S, SURFACE.FC), wide), SURFACE.FC);
  v128.store(S, f32x4.add(v128.load(S, SURFACE.FS), sharp), SURFACE.FS);
}

function addCoat(S: usize, w: v128): void {
  const one: f32 = 1;
  const coat = load<f32>(S, SURFACE.COAT);
  const ci = load3(S + SURFACE.COAT_IN);
  const co = vec(
    dot(load3(S + SURFACE.COAT_TANGENT), w),
    dot(load3(S + SURFACE.COAT_BITANGENT), w),
    dot(load3(S + SURFACE.COAT_NORMAL), w),
  );
  if (Z(co) <= <f32>1e-6) return;
  const alpha = alphaOf(load<f32>(S, SURFACE.COAT_ROUGHNESS));
  const h = normalize(add(ci, co));
  const k: f32 = ggx2(h, alpha, alpha) / (<f32>4 * Z(ci));
  const F = X(schlick(vec(COAT_F0, 0, 0), one, max<f32>(dot(ci, h), 0)));
  const l = lambda2(ci, alpha, alpha);
  const f = (coat * F * k) / (one + l + lambda2(co, alpha, alpha));
  const pdf = (load<f32>(S, SURFACE.P_COAT) * k) / (one + l);
  v128.store(S, f32x4.add(v128.load(S, SURFACE.FS), f32x4.replace_lane(vec(f, f, f), 3, pdf)), SURFACE.FS);
}
