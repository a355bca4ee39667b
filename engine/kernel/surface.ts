// What a ray met: position, normals, texture lookups, and the scattering of glTF's metallic-roughness material with transmission.
//
// Microfacets: GGX with height-correlated Smith shadowing (Walter et al. 2007; Heitz 2014), visible normals sampled after Heitz (JCGT 7(4), 2018).
// Energy: the specular lobe is scaled by 1 + F0 (1/E − 1) (Turquin 2019), E being the lobe's albedo for F0 = 1 from a table, and the diffuse base gets
// what the dielectric lobe leaves, 1 − E(view). Both depend on the viewing direction only, so a white surface keeps all energy.
// Transmission: glass is sampled, never picked for light, so its pdf is reported as 0 (cannot be met by light picking).
import {
  ALBEDO_SIZE, GEOM_COLORS, GEOM_INDICES, GEOM_NORMALS, GEOM_UV0, GEOM_UV1, HIT_BLOCK, HIT_PRIM, HIT_U, HIT_V, INST_FORWARD, INST_GEOMETRY, INST_MATERIAL,
  JOB_ALBEDO_TABLE, JOB_SRGB_TABLE, MAT_BASE, MAT_DOUBLE_SIDED, MAT_EMISSION, MAT_FLAGS, MAT_IOR, MAT_METALLIC, MAT_NORMAL_SCALE,
  MAT_ROUGHNESS, MAT_SOLID, MAT_SPECULAR, MAT_TEX_BASE, MAT_TEX_EMISSION, MAT_TEX_METAL_ROUGH, MAT_TEX_NORMAL, MAT_TRANSMISSION, TEX_DATA, TEX_FLAGS, TEX_HEIGHT,
  TEX_SRGB, TEX_UV, TEX_UV1, TEX_WIDTH, TEX_WRAP_S, TEX_WRAP_T, WRAP_CLAMP, WRAP_MIRROR,
} from './layout';
import { X, Y, Z, add, cross, dot, load3, luminance, mul, neg, normalize, scale, store3, sub, vec } from './vec';

export const PI: f32 = 3.14159265;
export const INV_PI: f32 = 0.318309886;

// Surface record in a thread's scratch: what shading needs, once per hit
export const S_POSITION: usize = 0, S_GEOMETRIC: usize = 16, S_NORMAL: usize = 32, S_TANGENT: usize = 48, S_BITANGENT: usize = 64, S_BASE: usize = 80,
  S_F0: usize = 96, S_EMISSION: usize = 112, S_ALPHA: usize = 128, S_TRANSMISSION: usize = 132, S_DIFFUSE: usize = 136, S_ETA: usize = 140, S_MATERIAL: usize = 144,
  S_FRONT: usize = 148, S_MS: usize = 160, S_PSPEC: usize = 176, S_IN: usize = 192, S_F90: usize = 208;
// Sampled direction: 256 direction | 272 weight (f·cos/pdf), 284 pdf | 288 kind
export const S_OUT: usize = 256, S_WEIGHT: usize = 272, S_PDF: usize = 284, S_KIND: usize = 288;
export const KIND_NONE: i32 = 0, KIND_DIFFUSE: i32 = 1, KIND_SPECULAR: i32 = 2, KIND_TRANSMITTED: i32 = 3;

// @ts-ignore
@inline function wrap(i: i32, n: i32, mode: u32): i32 {
  if (mode == WRAP_CLAMP) return min<i32>(max<i32>(i, 0), n - 1);
  if (mode == WRAP_MIRROR) { const p = 2 * n; let k = i % p; if (k < 0) k += p; return k < n ? k : p - 1 - k; }
  const k = i % n; return k < 0 ? k + n : k;
}
// @ts-ignore
@inline function texel(data: usize, w: i32, x: i32, y: i32, srgb: usize): v128 {
  const p = load<u32>(data + ((<usize>y * <usize>w + <usize>x) << 2));
  if (srgb) return f32x4.replace_lane(vec(load<f32>(srgb + ((p & 255) << 2)), load<f32>(srgb + ((p >> 8 & 255) << 2)), load<f32>(srgb + ((p >> 16 & 255) << 2))), 3, <f32>(p >> 24) * <f32>(1.0 / 255));
  return f32x4.mul(f32x4.replace_lane(vec(<f32>(p & 255), <f32>(p >> 8 & 255), <f32>(p >> 16 & 255)), 3, <f32>(p >> 24)), f32x4.splat(<f32>(1.0 / 255)));
}
/** Bilinear lookup at texture coordinates already transformed; half-texel centres as in glTF. */
function sample(job: usize, use: usize, u: f32, v: f32): v128 {
  const w = load<i32>(use, TEX_WIDTH), h = load<i32>(use, TEX_HEIGHT), flags = load<u32>(use, TEX_FLAGS), data: usize = load<u32>(use, TEX_DATA);
  const srgb: usize = flags & TEX_SRGB ? <usize>load<u32>(job, JOB_SRGB_TABLE) : 0, ws = flags >> TEX_WRAP_S & 3, wt = flags >> TEX_WRAP_T & 3;
  const half: f32 = 0.5, fx = u * <f32>w - half, fy = v * <f32>h - half;
  if (!(abs<f32>(fx) < <f32>1e8 && abs<f32>(fy) < <f32>1e8)) return f32x4.splat(0);
  const flx = floor<f32>(fx), fly = floor<f32>(fy), ax = fx - flx, ay = fy - fly;
  const x0 = wrap(<i32>flx, w, ws), x1 = wrap(<i32>flx + 1, w, ws), y0 = wrap(<i32>fly, h, wt), y1 = wrap(<i32>fly + 1, h, wt);
  const top = f32x4.add(f32x4.mul(texel(data, w, x0, y0, srgb), f32x4.splat(<f32>1 - ax)), f32x4.mul(texel(data, w, x1, y0, srgb), f32x4.splat(ax)));
  const bottom = f32x4.add(f32x4.mul(texel(data, w, x0, y1, srgb), f32x4.splat(<f32>1 - ax)), f32x4.mul(texel(data, w, x1, y1, srgb), f32x4.splat(ax)));
  return f32x4.add(f32x4.mul(top, f32x4.splat(<f32>1 - ay)), f32x4.mul(bottom, f32x4.splat(ay)));
}
function lookup(job: usize, use: usize, geom: usize, i0: usize, i1: usize, i2: usize, u: f32, v: f32): v128 {
  const flags = load<u32>(use, TEX_FLAGS), uvs: usize = flags & TEX_UV1 ? load<u32>(geom, GEOM_UV1) : load<u32>(geom, GEOM_UV0);
  let s: f32 = 0, t: f32 = 0;
  if (uvs) {
    const w: f32 = <f32>1 - u - v;
    s = load<f32>(uvs + (i0 << 3)) * w + load<f32>(uvs + (i1 << 3)) * u + load<f32>(uvs + (i2 << 3)) * v;
    t = load<f32>(uvs + (i0 << 3), 4) * w + load<f32>(uvs + (i1 << 3), 4) * u + load<f32>(uvs + (i2 << 3), 4) * v;
  }
  return sample(job, use, load<f32>(use, TEX_UV) * s + load<f32>(use, TEX_UV + 4) * t + load<f32>(use, TEX_UV + 8), load<f32>(use, TEX_UV + 12) * s + load<f32>(use, TEX_UV + 16) * t + load<f32>(use, TEX_UV + 20));
}
/** Radiance in nits that a point of an emissive triangle gives off on its front. */
export function emissionAt(job: usize, mat: usize, geom: usize, prim: u32, u: f32, v: f32): v128 {
  const e = load3(mat + MAT_EMISSION), use: usize = load<u32>(mat, MAT_TEX_EMISSION);
  if (!use) return e;
  const ip = <usize>load<u32>(geom, GEOM_INDICES) + <usize>prim * 12;
  return mul(e, f32x4.replace_lane(lookup(job, use, geom, load<u32>(ip), load<u32>(ip, 4), load<u32>(ip, 8), u, v), 3, 0));
}

/** Albedo of the specular lobe for reflectance F0 as F0·A + B; returns A in lane 0 and B in lane 1. Table: cos θ by roughness, both 0…1. */
function albedo(job: usize, cos: f32, roughness: f32): v128 {
  const table: usize = load<u32>(job, JOB_ALBEDO_TABLE);
  const x = min<f32>(max<f32>(cos, 0), 1) * <f32>(ALBEDO_SIZE - 1), y = min<f32>(max<f32>(roughness, 0), 1) * <f32>(ALBEDO_SIZE - 1);
  const i = min<i32>(<i32>x, ALBEDO_SIZE - 2), j = min<i32>(<i32>y, ALBEDO_SIZE - 2), a = x - <f32>i, b = y - <f32>j;
  const p = table + <usize>(j * ALBEDO_SIZE + i) * 8, q = p + ALBEDO_SIZE * 8, one: f32 = 1;
  const A = (load<f32>(p) * (one - a) + load<f32>(p, 8) * a) * (one - b) + (load<f32>(q) * (one - a) + load<f32>(q, 8) * a) * b;
  const B = (load<f32>(p, 4) * (one - a) + load<f32>(p, 12) * a) * (one - b) + (load<f32>(q, 4) * (one - a) + load<f32>(q, 12) * a) * b;
  return vec(A, B, 0);
}

/** Fills the surface record at S for a hit of ray direction d (unit). */
export function readSurface(job: usize, hit: usize, inst: usize, d: v128, S: usize): void {
  const block: usize = load<u32>(hit, HIT_BLOCK), lane = (block & 3) << 2, p = (block & ~3) + lane, u = load<f32>(hit, HIT_U), v = load<f32>(hit, HIT_V);
  const v0 = vec(load<f32>(p), load<f32>(p, 16), load<f32>(p, 32)), e1 = vec(load<f32>(p, 48), load<f32>(p, 64), load<f32>(p, 80)), e2 = vec(load<f32>(p, 96), load<f32>(p, 112), load<f32>(p, 128));
  const local = add(v0, add(scale(e1, u), scale(e2, v))), m = inst + INST_FORWARD;
  const m0 = load3(m), m1 = load3(m + 12), m2 = load3(m + 24), m3 = load3(m + 36);
  store3(S + S_POSITION, add(add(scale(m0, X(local)), scale(m1, Y(local))), add(scale(m2, Z(local)), m3)));
  const c0 = load3(inst), c1 = load3(inst + 16), c2 = load3(inst + 32);
  const gl = cross(e1, e2);
  let ng = normalize(vec(dot(c0, gl), dot(c1, gl), dot(c2, gl)));
  const geom: usize = load<u32>(inst, INST_GEOMETRY), mat: usize = load<u32>(inst, INST_MATERIAL), prim = load<u32>(hit, HIT_PRIM);
  const ip = <usize>load<u32>(geom, GEOM_INDICES) + <usize>prim * 12;
  const i0: usize = load<u32>(ip), i1: usize = load<u32>(ip, 4), i2: usize = load<u32>(ip, 8);
  const normals: usize = load<u32>(geom, GEOM_NORMALS), w: f32 = <f32>1 - u - v;
  let n = ng;
  if (normals) {
    const nl = add(scale(load3(normals + i0 * 12), w), add(scale(load3(normals + i1 * 12), u), scale(load3(normals + i2 * 12), v)));
    const nw = vec(dot(c0, nl), dot(c1, nl), dot(c2, nl));
    if (dot(nw, nw) > 0) n = normalize(nw);
  }
  // tangent frame: along the texture where there is one (for normal maps), otherwise any
  let tangent = vec(0, 0, 0);
  const normalUse: usize = load<u32>(mat, MAT_TEX_NORMAL);
  if (normalUse) {
    const uvs: usize = load<u32>(normalUse, TEX_FLAGS) & TEX_UV1 ? load<u32>(geom, GEOM_UV1) : load<u32>(geom, GEOM_UV0);
    if (uvs) {
      const du1 = load<f32>(uvs + (i1 << 3)) - load<f32>(uvs + (i0 << 3)), dv1 = load<f32>(uvs + (i1 << 3), 4) - load<f32>(uvs + (i0 << 3), 4);
      const du2 = load<f32>(uvs + (i2 << 3)) - load<f32>(uvs + (i0 << 3)), dv2 = load<f32>(uvs + (i2 << 3), 4) - load<f32>(uvs + (i0 << 3), 4);
      const det = du1 * dv2 - du2 * dv1;
      if (det != 0) {
        const r: f32 = <f32>1 / det, tl = scale(sub(scale(e1, dv2), scale(e2, dv1)), r), bl = scale(sub(scale(e2, du1), scale(e1, du2)), r);
        let tw = add(add(scale(m0, X(tl)), scale(m1, Y(tl))), scale(m2, Z(tl)));
        const bw = add(add(scale(m0, X(bl)), scale(m1, Y(bl))), scale(m2, Z(bl)));
        tw = sub(tw, scale(n, dot(n, tw)));
        if (dot(tw, tw) > 0) {
          tangent = normalize(tw);
          let bitangent = cross(n, tangent);
          if (dot(bitangent, bw) < 0) bitangent = neg(bitangent);
          const texel = lookup(job, normalUse, geom, i0, i1, i2, u, v), k = load<f32>(mat, MAT_NORMAL_SCALE), two: f32 = 2, one: f32 = 1;
          // glTF: +Y of the map points along decreasing v, which is −bitangent of increasing v
          const nm = add(add(scale(tangent, (X(texel) * two - one) * k), scale(bitangent, -(Y(texel) * two - one) * k)), scale(n, max<f32>(Z(texel) * two - one, <f32>0.01)));
          n = normalize(nm);
        }
      }
    }
  }
  const front = dot(ng, d) < 0;
  store<i32>(S, front ? 1 : 0, S_FRONT);
  if (!front) { ng = neg(ng); n = neg(n); }
  // a shading normal turned away from the viewer is bent back, so that no black edge appears
  const facing = dot(n, d);
  if (facing > <f32>-0.001) n = normalize(sub(n, scale(d, facing + <f32>0.002)));
  store3(S + S_GEOMETRIC, ng); store3(S + S_NORMAL, n);
  const sgn: f32 = Z(n) >= 0 ? 1 : -1, a: f32 = <f32>-1 / (sgn + Z(n)), b = X(n) * Y(n) * a; // Duff et al., JCGT 6(1), 2017
  store3(S + S_TANGENT, vec(<f32>1 + sgn * X(n) * X(n) * a, sgn * b, -sgn * X(n)));
  store3(S + S_BITANGENT, vec(b, sgn + Y(n) * Y(n) * a, -Y(n)));

  let base = f32x4.replace_lane(v128.load(mat + MAT_BASE), 3, 0);
  let use: usize = load<u32>(mat, MAT_TEX_BASE);
  if (use) base = mul(base, f32x4.replace_lane(lookup(job, use, geom, i0, i1, i2, u, v), 3, 0));
  const colors: usize = load<u32>(geom, GEOM_COLORS);
  if (colors) base = mul(base, f32x4.replace_lane(add(scale(v128.load(colors + (i0 << 4)), w), add(scale(v128.load(colors + (i1 << 4)), u), scale(v128.load(colors + (i2 << 4)), v))), 3, 0));
  let metallic = load<f32>(mat, MAT_METALLIC), roughness = load<f32>(mat, MAT_ROUGHNESS);
  use = load<u32>(mat, MAT_TEX_METAL_ROUGH);
  if (use) { const t = lookup(job, use, geom, i0, i1, i2, u, v); metallic *= Z(t); roughness *= Y(t); }
  const alpha = max<f32>(roughness * roughness, <f32>0.0004), transmission = load<f32>(mat, MAT_TRANSMISSION) * (<f32>1 - metallic), ior = load<f32>(mat, MAT_IOR);
  const r0 = (ior - <f32>1) / (ior + <f32>1), f0 = r0 * r0 * load<f32>(mat, MAT_SPECULAR);
  const F0 = add(scale(vec(1, 1, 1), f0 * (<f32>1 - metallic)), scale(base, metallic));
  store3(S + S_BASE, base); store3(S + S_F0, F0); store<f32>(S, alpha, S_ALPHA); store<f32>(S, transmission, S_TRANSMISSION);
  store<u32>(S, <u32>mat, S_MATERIAL); store<f32>(S, front ? <f32>1 / ior : ior, S_ETA);
  const emits = front || (load<u32>(mat, MAT_FLAGS) & MAT_DOUBLE_SIDED) != 0;
  store3(S + S_EMISSION, emits ? emissionAt(job, mat, geom, prim, u, v) : vec(0, 0, 0));
  // energy terms for this viewing direction
  const cos = -dot(n, d), ab = albedo(job, cos, roughness), one: f32 = 1, E = max<f32>(X(ab) + Y(ab), <f32>0.05);
  const ms = add(vec(1, 1, 1), scale(F0, one / E - one));
  store3(S + S_MS, ms);
  // KHR_materials_specular: the factor scales the dielectric's reflectance at grazing angles too; a metal's is 1
  const dielectric90 = load<f32>(mat, MAT_SPECULAR), f90 = dielectric90 * (one - metallic) + metallic;
  store<f32>(S, f90, S_F90);
  const Ed = (f0 * X(ab) + dielectric90 * Y(ab)) * (one + f0 * (one / E - one)), diffuse = (one - metallic) * (one - transmission) * max<f32>(one - Ed, 0);
  store<f32>(S, diffuse, S_DIFFUSE);
  const spec = mul(add(scale(F0, X(ab)), scale(vec(1, 1, 1), f90 * Y(ab))), ms), ls = luminance(spec), ld = diffuse * luminance(base);
  store<f32>(S, ls + ld > 0 ? min<f32>(max<f32>(ls / (ls + ld), <f32>0.1), diffuse > 0 ? <f32>0.9 : 1) : 1, S_PSPEC);
  store3(S + S_IN, vec(-dot(load3(S + S_TANGENT), d), -dot(load3(S + S_BITANGENT), d), max<f32>(cos, <f32>1e-4)));
}

// @ts-ignore
@inline function lambda(v: v128, alpha: f32): f32 { // Smith's Λ of GGX
  const z2 = Z(v) * Z(v), t = (X(v) * X(v) + Y(v) * Y(v)) * alpha * alpha / z2;
  return <f32>0.5 * (sqrt<f32>(<f32>1 + t) - <f32>1);
}
// @ts-ignore
@inline function ggx(h: v128, alpha: f32): f32 {
  const a2 = alpha * alpha, k = (X(h) * X(h) + Y(h) * Y(h)) / a2 + Z(h) * Z(h);
  return <f32>1 / (PI * a2 * k * k);
}
// @ts-ignore
@inline function schlick(F0: v128, F90: f32, cos: f32): v128 {
  const m = <f32>1 - cos, m2 = m * m, k = m2 * m2 * m;
  return add(F0, scale(sub(scale(vec(1, 1, 1), F90), F0), k));
}
/** Visible normal of GGX for viewing direction v in the tangent frame (z up). */
function visibleNormal(v: v128, alpha: f32, r1: f32, r2: f32): v128 {
  const vh = normalize(vec(X(v) * alpha, Y(v) * alpha, Z(v)));
  const l = X(vh) * X(vh) + Y(vh) * Y(vh), il: f32 = l > 0 ? <f32>1 / sqrt<f32>(l) : 0;
  const t1 = l > 0 ? vec(-Y(vh) * il, X(vh) * il, 0) : vec(1, 0, 0), t2 = cross(vh, t1);
  const r = sqrt<f32>(r1), phi: f32 = <f32>2 * PI * r2, p1 = r * Mathf.cos(phi), s: f32 = <f32>0.5 * (<f32>1 + Z(vh)), one: f32 = 1;
  const p2 = (one - s) * sqrt<f32>(max<f32>(one - p1 * p1, 0)) + s * r * Mathf.sin(phi);
  const nh = add(add(scale(t1, p1), scale(t2, p2)), scale(vh, sqrt<f32>(max<f32>(one - p1 * p1 - p2 * p2, 0))));
  return normalize(vec(alpha * X(nh), alpha * Y(nh), max<f32>(Z(nh), <f32>1e-6)));
}
// @ts-ignore
@inline function toLocal(S: usize, w: v128): v128 { return vec(dot(load3(S + S_TANGENT), w), dot(load3(S + S_BITANGENT), w), dot(load3(S + S_NORMAL), w)); }
// @ts-ignore
@inline function toWorld(S: usize, l: v128): v128 { return add(add(scale(load3(S + S_TANGENT), X(l)), scale(load3(S + S_BITANGENT), Y(l))), scale(load3(S + S_NORMAL), Z(l))); }

/** Scattering f·cos of the opaque lobes for local directions, with the pdf in lane 3. */
function evaluateLocal(S: usize, vi: v128, vo: v128): v128 {
  if (Z(vo) <= 0) return f32x4.splat(0);
  const opaque: f32 = <f32>1 - load<f32>(S, S_TRANSMISSION), ps = load<f32>(S, S_PSPEC), alpha = load<f32>(S, S_ALPHA), one: f32 = 1;
  const h = normalize(add(vi, vo)), D = ggx(h, alpha), lv = lambda(vi, alpha), lo = lambda(vo, alpha);
  const F = schlick(load3(S + S_F0), load<f32>(S, S_F90), max<f32>(dot(vi, h), 0));
  const spec = scale(mul(F, load3(S + S_MS)), opaque * D / ((one + lv + lo) * <f32>4 * Z(vi)));
  const diffuse = scale(load3(S + S_BASE), load<f32>(S, S_DIFFUSE) * INV_PI * Z(vo)); // S_DIFFUSE already holds 1 − transmission
  const pdf = opaque * (ps * D / ((one + lv) * <f32>4 * Z(vi)) + (one - ps) * Z(vo) * INV_PI);
  return f32x4.replace_lane(add(spec, diffuse), 3, pdf);
}
/** f·cos and pdf (lane 3, per steradian) for light arriving from world direction w; zero on the other side of the surface. */
export function evaluate(S: usize, w: v128): v128 {
  if (dot(load3(S + S_GEOMETRIC), w) <= 0) return f32x4.splat(0);
  return evaluateLocal(S, load3(S + S_IN), toLocal(S, w));
}

// @ts-ignore
@inline function fresnel(cos: f32, eta: f32): f32 { // unpolarised, eta = n incident / n transmitted
  const s2 = eta * eta * (<f32>1 - cos * cos);
  if (s2 >= 1) return 1;
  const ct = sqrt<f32>(<f32>1 - s2), a = (eta * cos - ct) / (eta * cos + ct), b = (cos - eta * ct) / (cos + eta * ct);
  return <f32>0.5 * (a * a + b * b);
}

/** Draws the next direction into S_OUT with its weight f·cos/pdf, pdf (0 for glass) and kind. */
export function scatter(S: usize, r: v128, lobe: f32): void {
  const vi = load3(S + S_IN), T = load<f32>(S, S_TRANSMISSION), alpha = load<f32>(S, S_ALPHA), one: f32 = 1;
  store<i32>(S, KIND_NONE, S_KIND);
  if (lobe < T) {
    const mat: usize = load<u32>(S, S_MATERIAL), solid = (load<u32>(mat, MAT_FLAGS) & MAT_SOLID) != 0;
    const eta = solid ? load<f32>(S, S_ETA) : one / load<f32>(mat, MAT_IOR);
    const h = visibleNormal(vi, alpha, X(r), Y(r)), c = dot(vi, h), F = fresnel(c, eta), pick = lobe / T;
    const through = pick >= F, mirrored = sub(scale(h, <f32>2 * c), vi);
    let out = mirrored;
    if (through) {
      if (solid) { const ct = sqrt<f32>(max<f32>(one - eta * eta * (one - c * c), 0)); out = sub(scale(h, eta * c - ct), scale(vi, eta)); }
      else out = vec(X(mirrored), Y(mirrored), -Z(mirrored)); // a thin sheet spreads, but does not bend
    }
    const w = normalize(toWorld(S, out)), side = dot(load3(S + S_GEOMETRIC), w);
    if (through ? !(Z(out) < 0 && side < 0) : !(Z(out) > 0 && side > 0)) return;
    const lv = lambda(vi, alpha), lo = lambda(out, alpha), weight = through ? load3(S + S_BASE) : vec(1, 1, 1);
    store3(S + S_OUT, w); store3(S + S_WEIGHT, scale(weight, (one + lv) / (one + lv + lo))); store<f32>(S, 0, S_PDF);
    store<i32>(S, through ? KIND_TRANSMITTED : KIND_SPECULAR, S_KIND);
    return;
  }
  const ps = load<f32>(S, S_PSPEC), pick = (lobe - T) / (one - T);
  let out: v128, kind: i32;
  if (pick < ps) { const h = visibleNormal(vi, alpha, X(r), Y(r)); out = sub(scale(h, <f32>2 * dot(vi, h)), vi); kind = KIND_SPECULAR; }
  else { const s = sqrt<f32>(X(r)), phi: f32 = <f32>2 * PI * Y(r); out = vec(s * Mathf.cos(phi), s * Mathf.sin(phi), sqrt<f32>(max<f32>(one - X(r), 0))); kind = KIND_DIFFUSE; }
  if (Z(out) <= <f32>1e-6) return;
  const w = normalize(toWorld(S, out));
  if (dot(load3(S + S_GEOMETRIC), w) <= 0) return;
  const f = evaluateLocal(S, vi, out), pdf = f32x4.extract_lane(f, 3);
  if (!(pdf > 0)) return;
  store3(S + S_OUT, w); store3(S + S_WEIGHT, scale(f, one / pdf)); store<f32>(S, pdf, S_PDF); store<i32>(S, kind, S_KIND);
}

/** Fills the albedo table: A and B of the specular lobe, by integrating visible normals over a fixed grid (deterministic). */
export function fillAlbedoTable(table: usize): void {
  const N: i32 = 24;
  for (let j: i32 = 0; j < ALBEDO_SIZE; j++) for (let i: i32 = 0; i < ALBEDO_SIZE; i++) {
    const roughness: f32 = <f32>j / <f32>(ALBEDO_SIZE - 1), alpha = max<f32>(roughness * roughness, <f32>0.0004), z = max<f32>(<f32>i / <f32>(ALBEDO_SIZE - 1), <f32>0.002);
    const v = vec(sqrt<f32>(<f32>1 - z * z), 0, z), lv = lambda(v, alpha), half: f32 = 0.5;
    let A: f64 = 0, B: f64 = 0;
    for (let a: i32 = 0; a < N; a++) for (let b: i32 = 0; b < N; b++) {
      const h = visibleNormal(v, alpha, (<f32>a + half) / <f32>N, (<f32>b + half) / <f32>N), c = dot(v, h), o = sub(scale(h, <f32>2 * c), v);
      if (Z(o) <= 0) continue;
      const g: f64 = (<f32>1 + lv) / (<f32>1 + lv + lambda(o, alpha)), m = <f32>1 - max<f32>(c, 0), k: f64 = m * m * m * m * m;
      A += g * (1 - k); B += g * k;
    }
    store<f32>(table + <usize>(j * ALBEDO_SIZE + i) * 8, <f32>(A / (N * N))); store<f32>(table + <usize>(j * ALBEDO_SIZE + i) * 8, <f32>(B / (N * N)), 4);
  }
}
