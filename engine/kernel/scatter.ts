// Where light goes on from a surface: the next direction of a path, drawn by what evaluate() (bsdf.ts) says of it.
import { evaluate, mirrored } from './bsdf';
import * as CLEAR from './clear';
import * as JOB from './layout/job';
import * as KIND from './kinds';
import * as SURFACE from './record';
import { alphaOf } from './energy';
import { guidedDirection, guideShare, mixGuide } from './guide';
import { coatCosine, glassEta, glassReflects, isSolid, layersAcross, layersSharp, tinted } from './layers';
import { lambda2, PI, visibleNormal2 } from './microfacets';
import { setFrameAt } from './record';
import { add, dot, load3, normalize, scale, store3, sub, vec, X, Y, Z } from './vec';

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
  const guided = pick < pc * guideShare();
  let w: v128, kind: i32;
  let about: usize = SURFACE.NORMAL;
  if (guided) {
    w = guidedDirection(pick / (pc * guideShare()), r);
    kind = KIND.DIFFUSE;
  } else if (pick < pc) {
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
    about = SURFACE.COAT_NORMAL;
  } else {
    const pg = load<f32>(S, SURFACE.P_GLASS);
    const alpha = load<f32>(S, SURFACE.AY);
    const h = visibleNormal2(vi, alpha, alpha, X(r), Y(r));
    const c = dot(vi, h);
    const eta = glassEta(S);
    const pane = load<i32>(S, SURFACE.CLEAR) == CLEAR.PANE;
    const F = glassReflects(S, pane ? Z(vi) : c, eta);
    const passes = Z(r) >= F;
    const reflected = sub(scale(h, two * c), vi);
    if (pane && passes) {
      // drawn with the share that is not mirrored
      store3(S + SURFACE.OUT, world(S, SURFACE.TANGENT, SURFACE.BITANGENT, SURFACE.NORMAL, scale(vi, -1)));
      store3(S + SURFACE.WEIGHT, scale(tinted(S), one / pg));
      store<f32>(S, 0, SURFACE.PDF);
      store<i32>(S, KIND.STRAIGHT, SURFACE.KIND);
      return;
    }
    let out = reflected;
    if (passes) {
      if (isSolid(S)) {
        const ct = sqrt<f32>(max<f32>(one - eta * eta * (one - c * c), 0));
        out = sub(scale(h, eta * c - ct), scale(vi, eta));
      } else out = vec(X(reflected), Y(reflected), -Z(reflected)); // a thin sheet spreads, but does not bend
    }
    w = world(S, SURFACE.TANGENT, SURFACE.BITANGENT, SURFACE.NORMAL, out);
    kind = passes ? KIND.TRANSMITTED : KIND.SPECULAR;
    if (passes ? Z(out) >= 0 : Z(out) <= 0) return;
    const side = dot(load3(S + SURFACE.SMOOTH), w);
    if (side == 0) return;
    if (passes == side > 0) w = mirrored(S, w, side);
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
  if (kind != KIND.TRANSMITTED) {
    // what a lobe draws under its own normal is lost, and found again by tables
    if (!guided && dot(load3(S + about), w) <= <f32>1e-6) return;
    const side = dot(load3(S + SURFACE.SMOOTH), w);
    if (side <= 0) {
      if (guided) return; // a lamp under the surface
      w = mirrored(S, w, side);
    }
  }
  evaluate(job, S, w);
  mixGuide(S, w);
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
