// Fills the energy tables, once a job.
import { albedo, alphaOf, clamp01, fresnel, layerAlbedo, stretchedAlpha } from './energy';
import * as TABLE from './energyLayout';
import { lambda2, PI, visibleNormal2 } from './microfacets';
import { sheenLobe } from './sheenLobe';
import { dot, scale, sub, vec, X, Y, Z } from './vec';

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

/** Bytes of the tables, with or without those of stretched lobes. */
export function energyTableBytes(stretched: i32): i32 {
  return <i32>(stretched ? TABLE.T_STRETCHED_MEAN + TABLE.S_ROUGH * TABLE.S_STRENGTH * 8 : TABLE.T_STRETCHED);
}
export function glassTableBytes(): i32 {
  return 3 * TABLE.G_ROUGH * TABLE.G_COS * 4;
}

/** scratch: 4 KB to work in. */
export function fillEnergyTables(tables: usize, stretched: i32, scratch: usize): void {
  for (let j: i32 = 0; j < TABLE.ISO; j++) {
    const roughness = <f32>j / <f32>(TABLE.ISO - 1);
    const alpha = alphaOf(roughness);
    const row = tables + <usize>j * TABLE.ISO_ROW;
    for (let i: i32 = 0; i < TABLE.ISO; i++) {
      const z = cosineOf(i, TABLE.ISO);
      const ab = integrate(vec(sqrt<f32>(<f32>1 - z * z), 0, z), alpha, alpha, 32);
      store<f32>(row + ((<usize>i) << 3), X(ab));
      store<f32>(row + ((<usize>i) << 3), Y(ab), 4);
    }
    store<f32>(tables + TABLE.T_MEAN + ((<usize>j) << 3), mean(row, TABLE.ISO, 8));
    store<f32>(tables + TABLE.T_MEAN + ((<usize>j) << 3), mean(row + 4, TABLE.ISO, 8), 4);
    const sheen = tables + TABLE.T_SHEEN + <usize>j * TABLE.ISO * 4;
    const N: i32 = 32;
    const half: f32 = 0.5;
    for (let i: i32 = 0; i < TABLE.ISO; i++) {
      const z = cosineOf(i, TABLE.ISO);
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
    store<f32>(tables + TABLE.T_SHEEN_MEAN + ((<usize>j) << 2), mean(sheen, TABLE.ISO, 4));
  }
  fillLayers(tables, scratch);
  if (!stretched) return;
  for (let s: i32 = 0; s < TABLE.S_STRENGTH; s++)
    for (let j: i32 = 0; j < TABLE.S_ROUGH; j++) {
      const roughness = <f32>j / <f32>(TABLE.S_ROUGH - 1);
      const ax = stretchedAlpha(roughness, <f32>s / <f32>(TABLE.S_STRENGTH - 1));
      const ay = alphaOf(roughness);
      const block = tables + TABLE.T_STRETCHED + <usize>((s * TABLE.S_ROUGH + j) * TABLE.S_PHI * TABLE.S_COS) * 8;
      let meanA: f32 = 0;
      let meanB: f32 = 0;
      for (let f: i32 = 0; f < TABLE.S_PHI; f++) {
        const phi = (PI * <f32>0.5 * <f32>f) / <f32>(TABLE.S_PHI - 1);
        const row = block + <usize>(f * TABLE.S_COS) * 8;
        const w: f32 = (f == 0 || f == TABLE.S_PHI - 1 ? <f32>0.5 : <f32>1) / <f32>(TABLE.S_PHI - 1);
        for (let i: i32 = 0; i < TABLE.S_COS; i++) {
          const z = cosineOf(i, TABLE.S_COS);
          const r = sqrt<f32>(<f32>1 - z * z);
          const ab = integrate(vec(r * Mathf.cos(phi), r * Mathf.sin(phi), z), ax, ay, 16);
          store<f32>(row + ((<usize>i) << 3), X(ab));
          store<f32>(row + ((<usize>i) << 3), Y(ab), 4);
        }
        meanA += w * mean(row, TABLE.S_COS, 8);
        meanB += w * mean(row + 4, TABLE.S_COS, 8);
      }
      const m = tables + TABLE.T_STRETCHED_MEAN + <usize>(s * TABLE.S_ROUGH + j) * 8;
      store<f32>(m, meanA);
      store<f32>(m, meanB, 4);
    }
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
  const passed = scratch + <usize>(TABLE.L_COS * TABLE.L_COS) * 4;
  for (let j: i32 = 0; j < TABLE.L_BELOW; j++) {
    const below = <f32>j / <f32>(TABLE.L_BELOW - 1);
    const alpha = alphaOf(below);
    memory.fill(scratch, 0, <usize>(TABLE.L_COS * TABLE.L_COS + TABLE.L_COS) * 4);
    for (let i: i32 = 0; i < TABLE.L_COS; i++) {
      const z = layerCosine(i);
      const v = vec(sqrt<f32>(one - z * z), 0, z);
      const lv = lambda2(v, alpha, alpha);
      const row = scratch + <usize>i * TABLE.LAYER_ROW;
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
          addTo(row, TABLE.L_COS, sqrt<f32>(Z(o)), w);
          store<f32>(p, load<f32>(p) + w);
        }
    }
    for (let kind: i32 = 0; kind < 2; kind++)
      for (let l: i32 = 0; l < TABLE.L_LAYER; l++) {
        const roughness = <f32>l / <f32>(TABLE.L_LAYER - 1);
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
          tables + TABLE.T_LAYER_LOST + ((<usize>((kind * TABLE.L_LAYER + l) * TABLE.L_BELOW + j)) << 2),
          below1 > 1e-9 ? <f32>(lost / below1) : 0,
        );
        for (let c: i32 = 0; c < TABLE.L_STRENGTH; c++) {
          const strength = <f32>(c + 1) / <f32>TABLE.L_STRENGTH;
          const g =
            tables +
            TABLE.T_LAYER +
            <usize>kind * TABLE.LAYER_TABLE +
            <usize>((c * TABLE.L_LAYER + l) * TABLE.L_BELOW + j) * TABLE.LAYER_ROW;
          for (let i: i32 = 0; i < TABLE.L_COS; i++)
            store<f32>(
              g + ((<usize>i) << 2),
              sqrt<f32>(max<f32>(one - strength * layerAlbedo(tables, kind, layerCosine(i), roughness), 0)),
            );
          for (let turn: i32 = 0; turn < 40; turn++)
            for (let i: i32 = 0; i < TABLE.L_COS; i++) {
              const p = g + ((<usize>i) << 2);
              const I = product(scratch + <usize>i * TABLE.LAYER_ROW, g, TABLE.L_COS);
              const wanted =
                load<f32>(passed + ((<usize>i) << 2)) *
                max<f32>(one - strength * layerAlbedo(tables, kind, layerCosine(i), roughness), 0);
              if (I > <f32>1e-6) store<f32>(p, sqrt<f32>((load<f32>(p) * wanted) / I));
            }
          // kept as multiples of the root, which is steep at grazing angles and known exactly
          for (let i: i32 = 0; i < TABLE.L_COS; i++) {
            const p = g + ((<usize>i) << 2);
            const root = sqrt<f32>(one - strength * layerAlbedo(tables, kind, layerCosine(i), roughness));
            store<f32>(p, root > <f32>0.01 ? load<f32>(p) / root : 1);
          }
        }
      }
  }
}
function layerCosine(i: i32): f32 {
  const x = <f32>i / <f32>(TABLE.L_COS - 1);
  return max<f32>(x * x, <f32>0.001);
}

/**
 * Fills the factors of glass of one index of refraction, until none changes by more than 10⁻⁶. scratch: 56 KB to work
 * in.
 */
export function fillGlassTable(table: usize, ior: f32, scratch: usize): void {
  const half: f32 = 0.5;
  const one: f32 = 1;
  const ROW: usize = <usize>TABLE.G_COS * 8;
  const count = 3 * TABLE.G_ROUGH * TABLE.G_COS; // a row: factors of the side of arrival, then of the other
  for (let i: i32 = 0; i < count; i++) store<f32>(table + ((<usize>i) << 2), 1);
  for (let j: i32 = 0; j < TABLE.G_ROUGH; j++) {
    const alpha = alphaOf(<f32>j / <f32>(TABLE.G_ROUGH - 1));
    const N: i32 = j < 8 ? 24 : 48;
    const M: i32 = j < 8 ? 16 : 32; // narrow lobes need fewer
    memory.fill(scratch, 0, 3 * <usize>TABLE.G_COS * ROW);
    for (let side: i32 = 0; side < 3; side++)
      for (let i: i32 = 0; i < TABLE.G_COS; i++) {
        const z = cosineOf(i, TABLE.G_COS);
        const v = vec(sqrt<f32>(one - z * z), 0, z);
        const lv = lambda2(v, alpha, alpha);
        const eta = side == 1 ? ior : one / ior;
        const row = scratch + <usize>(side * TABLE.G_COS + i) * ROW;
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
              addTo(
                row,
                TABLE.G_COS,
                Z(o),
                (w * (side == 2 ? one : F) * (one + lv)) / (one + lv + lambda2(o, alpha, alpha)),
              );
            if (side == 2 || F >= 1) continue;
            const ct = sqrt<f32>(max<f32>(one - eta * eta * (one - c * c), 0));
            const t = sub(scale(h, eta * c - ct), scale(v, eta));
            if (Z(t) < 0)
              addTo(
                row + ((<usize>TABLE.G_COS) << 2),
                TABLE.G_COS,
                -Z(t),
                (w * (one - F) * (one + lv)) / (one + lv + lambda2(t, alpha, alpha)),
              );
          }
      }
    for (let turn: i32 = 0; turn < 3000; turn++) {
      let most: f32 = 0;
      for (let side: i32 = 0; side < 3; side++)
        for (let i: i32 = 0; i < TABLE.G_COS; i++) {
          const own = table + <usize>((side * TABLE.G_ROUGH + j) * TABLE.G_COS) * 4;
          const p = own + ((<usize>i) << 2);
          const row = scratch + <usize>(side * TABLE.G_COS + i) * ROW;
          const g = load<f32>(p);
          let I = product(row, own, TABLE.G_COS);
          if (side < 2)
            I += product(
              row + ((<usize>TABLE.G_COS) << 2),
              table + <usize>(((1 - side) * TABLE.G_ROUGH + j) * TABLE.G_COS) * 4,
              TABLE.G_COS,
            );
          if (!(I > <f32>1e-4)) continue;
          const next = min<f32>(sqrt<f32>(g / I), 12);
          most = max<f32>(most, abs<f32>(next - g));
          store<f32>(p, next);
        }
      if (most < <f32>1e-6) break;
    }
  }
}
