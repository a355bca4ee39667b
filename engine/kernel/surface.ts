// What a ray met: position, normals, and the material's values at that point, read into a thread's surface record.
import * as GEOM from './layout/geometry';
import * as HIT from './layout/hit';
import * as INST from './layout/instance';
import * as MAT from './layout/material';
import * as TEX from './layout/texture';
import * as SURFACE from './record';
import { prepare } from './bsdf';
import { geometryOf, indicesOf } from './geometry';
import { frame, setFrame } from './record';
import { lookup } from './texture';
import { X, Y, Z, add, cross, dot, load3, maxOf, mul, neg, normalize, scale, store3, sub, vec } from './vec';

/** Radiance in nits that a point of an emissive triangle gives off on its front. */
export function emissionAt(job: usize, mat: usize, geom: usize, prim: u32, u: f32, v: f32): v128 {
  const e = load3(mat + MAT.EMISSION);
  const use: usize = load<u32>(mat, MAT.TEX_EMISSION);
  if (!use || !(maxOf(e) > 0)) return e;
  const ip = indicesOf(geom, prim);
  return mul(
    e,
    f32x4.replace_lane(lookup(job, use, geom, load<u32>(ip), load<u32>(ip, 4), load<u32>(ip, 8), u, v, 0), 3, 0),
  );
}

/** One number of a texture, 1 where there is none. */
// @ts-ignore
@inline function channel(
  job: usize,
  mat: usize,
  slot: usize,
  lane: u8,
  geom: usize,
  i0: usize,
  i1: usize,
  i2: usize,
  u: f32,
  v: f32,
  area: f32,
): f32 {
  const use: usize = load<u32>(mat + slot);
  if (!use) return 1;
  const t = lookup(job, use, geom, i0, i1, i2, u, v, area);
  if (lane == 0) return X(t);
  if (lane == 1) return Y(t);
  if (lane == 2) return Z(t);
  return f32x4.extract_lane(t, 3);
}
/** Normal bent by a normal map about n, in a frame along the texture. */
function bent(
  job: usize,
  use: usize,
  k: f32,
  n: v128,
  tangent: v128,
  bitangent: v128,
  geom: usize,
  i0: usize,
  i1: usize,
  i2: usize,
  u: f32,
  v: f32,
  area: f32,
): v128 {
  const t = lookup(job, use, geom, i0, i1, i2, u, v, area);
  const two: f32 = 2;
  const one: f32 = 1;
  // glTF: +Y of the map points along decreasing v, which is −bitangent of increasing v
  return normalize(
    add(
      add(scale(tangent, (X(t) * two - one) * k), scale(bitangent, -(Y(t) * two - one) * k)),
      scale(n, max<f32>(Z(t) * two - one, <f32>0.01)),
    ),
  );
}
/** A shading normal turned away from the viewer is bent back, so that no black edge appears. */
// @ts-ignore
@inline function towards(n: v128, d: v128): v128 {
  const facing = dot(n, d);
  return facing > <f32>-0.001 ? normalize(sub(n, scale(d, facing + <f32>0.002))) : n;
}

/** The texture coordinates by which footprints and directions are found; 0 where there are none. */
// @ts-ignore
@inline function coordinatesOf(mat: usize, geom: usize): usize {
  const use: usize = load<u32>(mat, MAT.TEX_NORMAL);
  return use && load<u32>(use, TEX.FLAGS) & TEX.UV1 ? load<u32>(geom, GEOM.UV1) : load<u32>(geom, GEOM.UV0);
}
/** From vertex a to vertex b, in lanes 0 and 1. */
// @ts-ignore
@inline function along2(uvs: usize, a: usize, b: usize): v128 {
  return vec(
    load<f32>(uvs + (b << 3)) - load<f32>(uvs + (a << 3)),
    load<f32>(uvs + (b << 3), 4) - load<f32>(uvs + (a << 3), 4),
    0,
  );
}
// @ts-ignore
@inline function determinant(a: v128, b: v128): f32 {
  return X(a) * Y(b) - X(b) * Y(a);
}
/**
 * Square of a ray's width × texture area / world area. w1, w2: a triangle's edges in the world, uv1, uv2: of its
 * texture.
 */
// @ts-ignore
@inline function areaSeen(width: f32, w1: v128, w2: v128, uv1: v128, uv2: v128): f32 {
  const normal = cross(w1, w2);
  const size = sqrt<f32>(dot(normal, normal));
  return size > 0 ? (width * width * abs<f32>(determinant(uv1, uv2))) / size : 0;
}
/** An edge of a triangle, in the world. */
// @ts-ignore
@inline function inWorld(inst: usize, e: v128): v128 {
  const m = inst + INST.FORWARD;
  return add(add(scale(load3(m), X(e)), scale(load3(m + 12), Y(e))), scale(load3(m + 24), Z(e)));
}
/** What lookups take as the area that a ray of a width sees at a hit: to the bit what readSurface() takes. */
export function footprint(hit: usize, inst: usize, width: f32): f32 {
  const block: usize = load<u32>(hit, HIT.BLOCK);
  const p = (block & ~3) + ((block & 3) << 2);
  const prim = load<u32>(hit, HIT.PRIM);
  const geom = geometryOf(inst, prim);
  const uvs = coordinatesOf(load<u32>(inst, INST.MATERIAL), geom);
  if (!uvs) return 0;
  const ip = indicesOf(geom, prim);
  const i0: usize = load<u32>(ip);
  const w1 = inWorld(inst, vec(load<f32>(p, 48), load<f32>(p, 64), load<f32>(p, 80)));
  const w2 = inWorld(inst, vec(load<f32>(p, 96), load<f32>(p, 112), load<f32>(p, 128)));
  return areaSeen(width, w1, w2, along2(uvs, i0, load<u32>(ip, 4)), along2(uvs, i0, load<u32>(ip, 8)));
}

/**
 * How far the smooth surface that a triangle's normals tell of stands above the triangle at a point, in the mesh's own
 * unit: of the planes across the normals at its corners, weighed as the point is (Hanika 2021, “Hacking the Shadow
 * Terminator”), as far as they stand above. Normals of a surface that is no bent one, as of leaves, raise it by a part
 * of its size at most.
 * @param n0 to n2: normals at the corners @param g of the triangle, of length 1 @param side −1 where its back was hit
 */
function riseOf(n0: v128, n1: v128, n2: v128, e1: v128, e2: v128, u: f32, v: f32, g: v128, side: f32): f32 {
  // the point as seen from each corner
  const from = add(scale(e1, u), scale(e2, v));
  const rise =
    (<f32>1 - u - v) * riseAt(n0, from, g, side) +
    u * riseAt(n1, sub(from, e1), g, side) +
    v * riseAt(n2, sub(from, e2), g, side);
  return min<f32>(rise, MOST_RISE * sqrt<f32>(max<f32>(dot(e1, e1), dot(e2, e2))));
}
const MOST_RISE: f32 = 0.15;
// @ts-ignore
@inline function riseAt(n: v128, from: v128, g: v128, side: f32): f32 {
  return max<f32>(-side * dot(from, n), 0) * max<f32>(dot(n, g), 0);
}

/** Fills the record at S for a hit of ray direction d (unit); width: of the ray there, in metres. */
export function readSurface(job: usize, hit: usize, inst: usize, d: v128, width: f32, S: usize): void {
  const block: usize = load<u32>(hit, HIT.BLOCK);
  const lane = (block & 3) << 2;
  const p = (block & ~3) + lane;
  const u = load<f32>(hit, HIT.U);
  const v = load<f32>(hit, HIT.V);
  const one: f32 = 1;
  const v0 = vec(load<f32>(p), load<f32>(p, 16), load<f32>(p, 32));
  const e1 = vec(load<f32>(p, 48), load<f32>(p, 64), load<f32>(p, 80));
  const e2 = vec(load<f32>(p, 96), load<f32>(p, 112), load<f32>(p, 128));
  const local = add(v0, add(scale(e1, u), scale(e2, v)));
  const m = inst + INST.FORWARD;
  const m0 = load3(m);
  const m1 = load3(m + 12);
  const m2 = load3(m + 24);
  const m3 = load3(m + 36);
  store3(S + SURFACE.POSITION, add(add(scale(m0, X(local)), scale(m1, Y(local))), add(scale(m2, Z(local)), m3)));
  const c0 = load3(inst);
  const c1 = load3(inst + 16);
  const c2 = load3(inst + 32);
  const gl = cross(e1, e2);
  let ng = normalize(vec(dot(c0, gl), dot(c1, gl), dot(c2, gl)));
  const mat: usize = load<u32>(inst, INST.MATERIAL);
  const prim = load<u32>(hit, HIT.PRIM);
  const geom = geometryOf(inst, prim);
  // one in so many hits is counted, by its place in the wave
  if (<i32>prim < 0 && !((hit / HIT.BYTES) % GEOM.USED_EVERY))
    store<u32>(geom, load<u32>(geom, GEOM.USED) + 1, GEOM.USED);
  const flags = load<u32>(mat, MAT.FLAGS);
  const ip = indicesOf(geom, prim);
  const i0: usize = load<u32>(ip);
  const i1: usize = load<u32>(ip, 4);
  const i2: usize = load<u32>(ip, 8);
  const normals: usize = load<u32>(geom, GEOM.NORMALS);
  const w: f32 = one - u - v;
  let n = ng;
  // glass bends light by its own surface
  const isOpaque = load<f32>(mat, MAT.TRANSMISSION) == 0;
  let rise: f32 = 0;
  if (normals) {
    const n0 = load3(normals + i0 * 12);
    const n1 = load3(normals + i1 * 12);
    const n2 = load3(normals + i2 * 12);
    const nl = add(scale(n0, w), add(scale(n1, u), scale(n2, v)));
    if (isOpaque) {
      const side: f32 = dot(ng, d) < 0 ? 1 : -1;
      const g = normalize(gl);
      const up = inWorld(inst, scale(g, riseOf(n0, n1, n2, e1, e2, u, v, g, side)));
      rise = abs<f32>(dot(up, ng));
    }
    const nw = vec(dot(c0, nl), dot(c1, nl), dot(c2, nl));
    if (dot(nw, nw) > 0) n = normalize(nw);
  }
  const front = dot(ng, d) < 0;
  const smooth = front ? n : neg(n);
  // along the texture: for normal maps and for stretched highlights
  const normalUse: usize = load<u32>(mat, MAT.TEX_NORMAL);
  const coatNormalUse: usize = load<u32>(mat, MAT.TEX_COAT_NORMAL);
  const stretch = load<f32>(mat, MAT.ANISOTROPY);
  const uvs = coordinatesOf(mat, geom);
  let tangent = vec(0, 0, 0);
  let bitangent = tangent;
  let area: f32 = 0;
  let along = false;
  let coat = n;
  if (uvs) {
    const uv1 = along2(uvs, i0, i1);
    const uv2 = along2(uvs, i0, i2);
    const det = determinant(uv1, uv2);
    const w1 = inWorld(inst, e1);
    const w2 = inWorld(inst, e2);
    area = areaSeen(width, w1, w2, uv1, uv2);
    if (det != 0 && (normalUse || coatNormalUse || stretch > 0)) {
      const r = one / det;
      const bw = scale(sub(scale(w2, X(uv1)), scale(w1, X(uv2))), r);
      let tw = scale(sub(scale(w1, Y(uv2)), scale(w2, Y(uv1))), r);
      tw = sub(tw, scale(n, dot(n, tw)));
      if (dot(tw, tw) > 0) {
        tangent = normalize(tw);
        bitangent = cross(n, tangent);
        along = true;
        if (dot(bitangent, bw) < 0) bitangent = neg(bitangent);
        const unbent = n;
        if (normalUse)
          n = bent(
            job,
            normalUse,
            load<f32>(mat, MAT.NORMAL_SCALE),
            unbent,
            tangent,
            bitangent,
            geom,
            i0,
            i1,
            i2,
            u,
            v,
            area,
          );
        if (coatNormalUse)
          coat = bent(
            job,
            coatNormalUse,
            load<f32>(mat, MAT.COAT_NORMAL_SCALE),
            unbent,
            tangent,
            bitangent,
            geom,
            i0,
            i1,
            i2,
            u,
            v,
            area,
          );
      }
    }
  }
  store<i32>(S, front ? 1 : 0, SURFACE.FRONT);
  store<u32>(S, <u32>mat, SURFACE.MATERIAL);
  if (!front) {
    ng = neg(ng);
    n = neg(n);
    coat = neg(coat);
  }
  n = towards(n, d);
  store3(S + SURFACE.SMOOTH, isOpaque && normals ? towards(smooth, d) : ng);
  store<f32>(S, rise, SURFACE.RISE);
  store3(S + SURFACE.GEOMETRIC, ng);
  store3(S + SURFACE.NORMAL, n);

  let base = f32x4.replace_lane(v128.load(mat + MAT.BASE), 3, 0);
  let use: usize = load<u32>(mat, MAT.TEX_BASE);
  if (use) base = mul(base, f32x4.replace_lane(lookup(job, use, geom, i0, i1, i2, u, v, area), 3, 0));
  const colors: usize = load<u32>(geom, GEOM.COLORS);
  if (colors)
    base = mul(
      base,
      f32x4.replace_lane(
        add(
          scale(v128.load(colors + (i0 << 4)), w),
          add(scale(v128.load(colors + (i1 << 4)), u), scale(v128.load(colors + (i2 << 4)), v)),
        ),
        3,
        0,
      ),
    );
  store3(S + SURFACE.BASE, base);
  store3(
    S + SURFACE.EMISSION,
    front || flags & MAT.DOUBLE_SIDED ? emissionAt(job, mat, geom, prim, u, v) : vec(0, 0, 0),
  );
  if (flags & MAT.UNLIT) return;
  let metallic = load<f32>(mat, MAT.METALLIC);
  let roughness = load<f32>(mat, MAT.ROUGHNESS);
  use = load<u32>(mat, MAT.TEX_METAL_ROUGH);
  if (use) {
    const t = lookup(job, use, geom, i0, i1, i2, u, v, area);
    metallic *= Z(t);
    roughness *= Y(t);
  }
  const ior = load<f32>(mat, MAT.IOR);
  const r0 = (ior - one) / (ior + one);
  const specular = load<f32>(mat, MAT.SPECULAR) * channel(job, mat, MAT.TEX_SPECULAR, 3, geom, i0, i1, i2, u, v, area);
  let tint = load3(mat + MAT.SPECULAR_COLOR);
  use = load<u32>(mat, MAT.TEX_SPECULAR_COLOR);
  if (use) tint = mul(tint, f32x4.replace_lane(lookup(job, use, geom, i0, i1, i2, u, v, area), 3, 0));
  store3(S + SURFACE.SPECULAR_F0, scale(f32x4.pmin(scale(tint, r0 * r0), vec(1, 1, 1)), specular));
  store<f32>(S, specular, SURFACE.SPECULAR);
  store<f32>(S, metallic, SURFACE.METALLIC);
  store<f32>(S, roughness, SURFACE.ROUGHNESS);
  store<f32>(S, front ? one / ior : ior, SURFACE.ETA);
  store<i32>(S, 0, SURFACE.IMMERSED);
  store<f32>(
    S,
    load<f32>(mat, MAT.TRANSMISSION) *
      channel(job, mat, MAT.TEX_TRANSMISSION, 0, geom, i0, i1, i2, u, v, area) *
      (one - metallic),
    SURFACE.TRANSMISSION,
  );
  const coatWeight = load<f32>(mat, MAT.COAT) * channel(job, mat, MAT.TEX_COAT, 0, geom, i0, i1, i2, u, v, area);
  store<f32>(S, coatWeight, SURFACE.COAT);
  if (coatWeight > 0) {
    store<f32>(
      S,
      load<f32>(mat, MAT.COAT_ROUGHNESS) * channel(job, mat, MAT.TEX_COAT_ROUGHNESS, 1, geom, i0, i1, i2, u, v, area),
      SURFACE.COAT_ROUGHNESS,
    );
    store3(S + SURFACE.COAT_NORMAL, towards(coat, d));
  }
  let sheen = load3(mat + MAT.SHEEN);
  use = load<u32>(mat, MAT.TEX_SHEEN);
  if (use) sheen = mul(sheen, f32x4.replace_lane(lookup(job, use, geom, i0, i1, i2, u, v, area), 3, 0));
  store3(S + SURFACE.SHEEN, sheen);
  store<f32>(
    S,
    load<f32>(mat, MAT.SHEEN_ROUGHNESS) * channel(job, mat, MAT.TEX_SHEEN_ROUGHNESS, 3, geom, i0, i1, i2, u, v, area),
    SURFACE.SHEEN_ROUGHNESS,
  );
  const iridescence =
    load<f32>(mat, MAT.IRIDESCENCE) * channel(job, mat, MAT.TEX_IRIDESCENCE, 0, geom, i0, i1, i2, u, v, area);
  const thin = load<f32>(mat, MAT.IRIDESCENCE_MIN);
  store<f32>(S, iridescence, SURFACE.IRIDESCENCE);
  if (iridescence > 0)
    store<f32>(
      S,
      thin +
        (load<f32>(mat, MAT.IRIDESCENCE_MAX) - thin) *
          channel(job, mat, MAT.TEX_IRIDESCENCE_THICKNESS, 1, geom, i0, i1, i2, u, v, area),
      SURFACE.IRIDESCENCE_NM,
    );
  // the frame: along the texture where highlights are stretched, otherwise any
  let strength = stretch;
  if (stretch > 0 && along) {
    let c = load<f32>(mat, MAT.ANISOTROPY_COS);
    let s = load<f32>(mat, MAT.ANISOTROPY_SIN);
    use = load<u32>(mat, MAT.TEX_ANISOTROPY);
    if (use) {
      const t = lookup(job, use, geom, i0, i1, i2, u, v, area);
      const x = X(t) * <f32>2 - one;
      const y = Y(t) * <f32>2 - one;
      const l = sqrt<f32>(x * x + y * y);
      strength *= Z(t);
      if (l > 0) {
        const k = (c * x - s * y) / l;
        s = (s * x + c * y) / l;
        c = k;
      }
    }
    // counter-clockwise as seen with v upwards, which is −bitangent
    let t = add(scale(tangent, c), scale(bitangent, -s));
    t = sub(t, scale(n, dot(n, t)));
    if (dot(t, t) > 0) {
      t = normalize(t);
      store3(S + SURFACE.TANGENT, t);
      store3(S + SURFACE.BITANGENT, cross(n, t));
    } else setFrame(S, n);
  } else setFrame(S, n);
  store<f32>(S, strength, SURFACE.ANISOTROPY);
  const o = neg(d);
  store3(S + SURFACE.IN, frame(S, o, <f32>1e-4));
  prepare(job, S, o);
}
