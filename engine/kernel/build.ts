// Builds a 4-wide bounding volume hierarchy by binned surface area heuristic, straight into its final place. Nodes and
// the triangle blocks they point to lie mixed, children after parents, so that a leaf is near its node: in the
// prototype this beat separate node and leaf arrays. A leaf costs by blocks of four triangles, not by triangles, as the
// traversal tests four at once. Ties and rounding: bins depend on the mesh alone, so one mesh always gives the same
// bytes (memory accounts rely on it).
import * as BLOCK from './layout/block';
import * as BUILD from './layout/build';
import * as INST from './layout/instance';
import * as NODE from './layout/node';
import * as REF from './layout/reference';

// Record (32 B): min xyz, id | max xyz, 0.  Child descriptor (96 B):
//   0 bounds min | 16 bounds max | 32 centroid-sum min | 48 centroid-sum max | 64 start, end, area, state | 80 axis,
// bin, origin, factor
const NODE_COST: f32 = 0.7;
const UNDECIDED: i32 = 0;
const SPLIT: i32 = 1;
const LEAF: i32 = 2;
let positions: usize = 0;
let indices: usize = 0;
let records: usize = 0;
let bins: usize = 0;
let top: usize = 0;
let instances: usize = 0;
let overInstances: bool = false;

// @ts-ignore
@inline function halfArea(lo: v128, hi: v128): f32 {
  const d = f32x4.sub(hi, lo);
  const x = f32x4.extract_lane(d, 0);
  const y = f32x4.extract_lane(d, 1);
  const z = f32x4.extract_lane(d, 2);
  return x * y + y * z + z * x;
}
// @ts-ignore
@inline function units(count: i32): f32 {
  return overInstances ? <f32>count : <f32>((count + 3) >> 2);
}
// @ts-ignore
@inline function growBin(q: usize, lo: v128, hi: v128): void {
  v128.store(q, f32x4.pmin(v128.load(q), lo));
  v128.store(q, f32x4.pmax(v128.load(q, 16), hi), 16);
  store<i32>(q, load<i32>(q, 32) + 1, 32);
}

/** Finds the cheapest split of child c and stores it there; returns area × units on both sides (Infinity: none). */
function chooseSplit(c: usize): f32 {
  const start = load<i32>(c, 64);
  const end = load<i32>(c, 68);
  const lo = f32x4.replace_lane(v128.load(c, 32), 3, 0);
  const hi = f32x4.replace_lane(v128.load(c, 48), 3, 0);
  const extent = f32x4.sub(hi, lo);
  const nb: i32 = min<i32>(BUILD.BINS, 4 + ((end - start) >> 2));
  const eps = f32x4.splat(<f32>1e-30);
  let k = f32x4.div(f32x4.splat(<f32>nb * <f32>0.9999), f32x4.pmax(extent, eps));
  k = v128.and(k, f32x4.gt(extent, eps));
  const inf = f32x4.splat(Infinity);
  const ninf = f32x4.splat(-Infinity);
  const AXIS: usize = BUILD.BINS * 48;
  for (let a: usize = 0; a < 3; a++)
    for (let i: i32 = 0; i < nb; i++) {
      const q = bins + a * AXIS + <usize>i * 48;
      v128.store(q, inf);
      v128.store(q, ninf, 16);
      store<i32>(q, 0, 32);
    }
  for (let r = records + ((<usize>start) << 5), re = records + ((<usize>end) << 5); r < re; r += 32) {
    const mn = v128.load(r);
    const mx = v128.load(r, 16);
    const b = i32x4.trunc_sat_f32x4_s(f32x4.mul(f32x4.sub(f32x4.replace_lane(f32x4.add(mn, mx), 3, 0), lo), k));
    growBin(bins + <usize>i32x4.extract_lane(b, 0) * 48, mn, mx);
    growBin(bins + AXIS + <usize>i32x4.extract_lane(b, 1) * 48, mn, mx);
    growBin(bins + 2 * AXIS + <usize>i32x4.extract_lane(b, 2) * 48, mn, mx);
  }
  const right = bins + 3 * AXIS;
  let best: f32 = Infinity;
  let bestAxis: i32 = -1;
  let bestBin: i32 = 0;
  for (let a: i32 = 0; a < 3; a++) {
    if (!(load<f32>(c + ((<usize>a) << 2), 48) > load<f32>(c + ((<usize>a) << 2), 32))) continue;
    const A = bins + <usize>a * AXIS;
    let mn = inf;
    let mx = ninf;
    let count: i32 = 0;
    for (let i = nb - 1; i > 0; i--) {
      const q = A + <usize>i * 48;
      mn = f32x4.pmin(mn, v128.load(q));
      mx = f32x4.pmax(mx, v128.load(q, 16));
      count += load<i32>(q, 32);
      store<f32>(right + ((<usize>i) << 2), count ? halfArea(mn, mx) * units(count) : Infinity);
    }
    mn = inf;
    mx = ninf;
    count = 0;
    for (let i: i32 = 0; i < nb - 1; i++) {
      const q = A + <usize>i * 48;
      mn = f32x4.pmin(mn, v128.load(q));
      mx = f32x4.pmax(mx, v128.load(q, 16));
      count += load<i32>(q, 32);
      if (!count) continue;
      const cost = halfArea(mn, mx) * units(count) + load<f32>(right + ((<usize>(i + 1)) << 2));
      if (cost < best) {
        best = cost;
        bestAxis = a;
        bestBin = i;
      }
    }
  }
  store<i32>(c, bestAxis, 80);
  store<i32>(c, bestBin, 84);
  if (bestAxis >= 0) {
    const o = c + ((<usize>bestAxis) << 2);
    const from = load<f32>(o, 32);
    store<f32>(c, from, 88);
    store<f32>(c, (<f32>nb * <f32>0.9999) / (load<f32>(o, 48) - from), 92);
  }
  return best;
}

/** Splits child c in two: the left part stays in c, the right part goes to d. */
function split(c: usize, d: usize): void {
  const start = load<i32>(c, 64);
  const end = load<i32>(c, 68);
  const axis = load<i32>(c, 80);
  const bin = load<i32>(c, 84);
  const inf = f32x4.splat(Infinity);
  const ninf = f32x4.splat(-Infinity);
  let i = records + ((<usize>start) << 5);
  let j = records + ((<usize>(end - 1)) << 5);
  let lb = inf;
  let lB = ninf;
  let lc = inf;
  let lC = ninf;
  let rb = inf;
  let rB = ninf;
  let rc = inf;
  let rC = ninf;
  if (axis < 0) {
    // by count: every centroid is in one place, or the tree is too deep
    const middle = records + ((<usize>((start + end) >> 1)) << 5);
    const stop = records + ((<usize>end) << 5);
    for (; i < middle; i += 32) {
      const a = v128.load(i);
      const b = v128.load(i, 16);
      const s = f32x4.add(a, b);
      lb = f32x4.pmin(lb, a);
      lB = f32x4.pmax(lB, b);
      lc = f32x4.pmin(lc, s);
      lC = f32x4.pmax(lC, s);
    }
    for (; i < stop; i += 32) {
      const a = v128.load(i);
      const b = v128.load(i, 16);
      const s = f32x4.add(a, b);
      rb = f32x4.pmin(rb, a);
      rB = f32x4.pmax(rB, b);
      rc = f32x4.pmin(rc, s);
      rC = f32x4.pmax(rC, s);
    }
    i = middle;
  } else {
    const from = load<f32>(c, 88);
    const k = load<f32>(c, 92);
    const o = (<usize>axis) << 2;
    while (i <= j) {
      const a = v128.load(i);
      const b = v128.load(i, 16);
      const s = f32x4.add(a, b);
      const at = i32x4.extract_lane(
        i32x4.trunc_sat_f32x4_s(f32x4.splat((load<f32>(i + o) + load<f32>(i + o, 16) - from) * k)),
        0,
      );
      if (at <= bin) {
        lb = f32x4.pmin(lb, a);
        lB = f32x4.pmax(lB, b);
        lc = f32x4.pmin(lc, s);
        lC = f32x4.pmax(lC, s);
        i += 32;
      } else {
        rb = f32x4.pmin(rb, a);
        rB = f32x4.pmax(rB, b);
        rc = f32x4.pmin(rc, s);
        rC = f32x4.pmax(rC, s);
        const p = v128.load(j);
        const q = v128.load(j, 16);
        v128.store(j, a);
        v128.store(j, b, 16);
        v128.store(i, p);
        v128.store(i, q, 16);
        j -= 32;
      }
    }
  }
  const m = <i32>((i - records) >> 5);
  v128.store(c, lb);
  v128.store(c, lB, 16);
  v128.store(c, lc, 32);
  v128.store(c, lC, 48);
  store<i32>(c, m, 68);
  store<f32>(c, halfArea(lb, lB), 72);
  store<i32>(c, UNDECIDED, 76);
  v128.store(d, rb);
  v128.store(d, rB, 16);
  v128.store(d, rc, 32);
  v128.store(d, rC, 48);
  store<i32>(d, m, 64);
  store<i32>(d, end, 68);
  store<f32>(d, halfArea(rb, rB), 72);
  store<i32>(d, UNDECIDED, 76);
}

function decide(c: usize, depth: i32): i32 {
  let state = load<i32>(c, 76);
  if (state) return state;
  const n = load<i32>(c, 68) - load<i32>(c, 64);
  if (n <= (overInstances ? 1 : 4)) state = LEAF;
  else {
    const cost = chooseSplit(c);
    const area = load<f32>(c, 72);
    if (!overInstances && n <= BLOCK.MOST_IN_LEAF * 4 && area * units(n) <= NODE_COST * area + cost) state = LEAF;
    else {
      state = SPLIT;
      if (depth >= BUILD.MAX_DEPTH || !(cost < Infinity)) store<i32>(c, -1, 80);
    }
  }
  store<i32>(c, state, 76);
  return state;
}

function writeLeaf(start: i32, end: i32): u32 {
  if (overInstances)
    return (<u32>(instances + <usize>load<u32>(records + ((<usize>start) << 5), 12) * INST.BYTES)) | REF.INSTANCE;
  const blocks = (end - start + 3) >> 2;
  const out = top;
  top += <usize>blocks * BLOCK.BYTES;
  memory.fill(out, 0, <usize>blocks * BLOCK.BYTES); // unused lanes hold triangles of no area, which nothing meets
  v128.store(out + <usize>(blocks - 1) * BLOCK.BYTES, i32x4.splat(-1), BLOCK.PRIM);
  for (let i = start; i < end; i++) {
    const k = i - start;
    writeTriangle(
      out + <usize>(k >> 2) * BLOCK.BYTES + ((<usize>(k & 3)) << 2),
      load<u32>(records + ((<usize>i) << 5), 12),
    );
  }
  return (<u32>out) | (<u32>blocks);
}

/** Triangle id into the lane at q. */
function writeTriangle(q: usize, id: u32): void {
  const ip = indices + <usize>id * 12;
  const a = positions + <usize>load<u32>(ip) * 12;
  const b = positions + <usize>load<u32>(ip, 4) * 12;
  const c = positions + <usize>load<u32>(ip, 8) * 12;
  for (let x: usize = 0; x < 3; x++) {
    const v = load<f32>(a + x * 4);
    store<f32>(q + x * 16, v);
    store<f32>(q + x * 16, load<f32>(b + x * 4) - v, 48);
    store<f32>(q + x * 16, load<f32>(c + x * 4) - v, 96);
  }
  store<u32>(q, id, BLOCK.PRIM);
}

/** Writes the node of the range described by the first child of frame f, then what is below it. */
function writeNode(f: usize, depth: i32): u32 {
  top = (top + 63) & ~63;
  const node = top;
  top += NODE.BYTES;
  let n: i32 = 1;
  while (n < 4) {
    let widest: i32 = -1;
    let area: f32 = -1;
    for (let i: i32 = 0; i < n; i++) {
      const c = f + <usize>i * BUILD.CHILD_BYTES;
      const A = load<f32>(c, 72);
      if (A > area && decide(c, depth) == SPLIT) {
        area = A;
        widest = i;
      }
    }
    if (widest < 0) break;
    split(f + <usize>widest * BUILD.CHILD_BYTES, f + <usize>n * BUILD.CHILD_BYTES);
    n++;
  }
  for (let i: i32 = 0; i < 4; i++) {
    const q = node + ((<usize>i) << 2);
    const c = f + <usize>i * BUILD.CHILD_BYTES;
    for (let x: usize = 0; x < 3; x++) {
      store<f32>(q + x * 16, i < n ? load<f32>(c + x * 4) : Infinity);
      store<f32>(q + x * 16, i < n ? load<f32>(c + x * 4, 16) : Infinity, 48);
    }
    store<u32>(q, 0, NODE.REF);
    store<u32>(q, 0, 112);
  }
  for (let i: i32 = 0; i < n; i++) {
    const c = f + <usize>i * BUILD.CHILD_BYTES;
    if (decide(c, depth) == LEAF)
      store<u32>(node + ((<usize>i) << 2), writeLeaf(load<i32>(c, 64), load<i32>(c, 68)), NODE.REF);
  }
  const next = f + 4 * BUILD.CHILD_BYTES;
  for (let i: i32 = 0; i < n; i++) {
    const c = f + <usize>i * BUILD.CHILD_BYTES;
    if (load<i32>(c, 76) == SPLIT) {
      memory.copy(next, c, BUILD.CHILD_BYTES);
      store<u32>(node + ((<usize>i) << 2), writeNode(next, depth + 1), NODE.REF);
    }
  }
  return <u32>node;
}

function run(n: i32, scratch: usize): u32 {
  bins = scratch;
  const f = scratch + BUILD.FRAMES;
  const inf = f32x4.splat(Infinity);
  const ninf = f32x4.splat(-Infinity);
  let b = inf;
  let B = ninf;
  let c = inf;
  let C = ninf;
  for (let i = records, e = records + ((<usize>n) << 5); i < e; i += 32) {
    const lo = v128.load(i);
    const hi = v128.load(i, 16);
    const s = f32x4.add(lo, hi);
    b = f32x4.pmin(b, lo);
    B = f32x4.pmax(B, hi);
    c = f32x4.pmin(c, s);
    C = f32x4.pmax(C, s);
  }
  v128.store(f, b);
  v128.store(f, B, 16);
  v128.store(f, c, 32);
  v128.store(f, C, 48);
  store<i32>(f, 0, 64);
  store<i32>(f, n, 68);
  store<f32>(f, halfArea(b, B), 72);
  store<i32>(f, UNDECIDED, 76);
  return writeNode(f, 0);
}

/** First free byte after the last build. */
export function buildEnd(): u32 {
  return <u32>top;
}

/**
 * Builds over n ≥ 1 triangles (positions f32×3, indices u32×3, all finite and in range: the host has checked). Returns
 * the root's address.
 */
export function buildMesh(pos: usize, idx: usize, n: i32, rec: usize, scratch: usize, out: usize): u32 {
  overInstances = false;
  positions = pos;
  indices = idx;
  records = rec;
  top = out;
  for (let i: i32 = 0; i < n; i++) {
    const ip = idx + <usize>i * 12;
    const r = rec + ((<usize>i) << 5);
    const a = v128.load(pos + <usize>load<u32>(ip) * 12);
    const b = v128.load(pos + <usize>load<u32>(ip, 4) * 12);
    const c = v128.load(pos + <usize>load<u32>(ip, 8) * 12);
    v128.store(r, f32x4.pmin(f32x4.pmin(a, b), c));
    v128.store(r, f32x4.pmax(f32x4.pmax(a, b), c), 16);
    store<i32>(r, i, 12);
    store<i32>(r, 0, 28);
  }
  return run(n, scratch);
}

/**
 * Box of the triangles of a reference with the positions of now, as v128 pair to `box`; nodes below it are brought up
 * to date.
 */
function refit(ref: u32, box: usize): void {
  let lo = f32x4.splat(Infinity);
  let hi = f32x4.splat(-Infinity);
  const blocks = ref & REF.MASK;
  if (blocks) {
    for (let i: u32 = 0; i < blocks * 4; i++) {
      const q = <usize>(ref & ~REF.MASK) + <usize>(i >> 2) * BLOCK.BYTES + ((<usize>(i & 3)) << 2);
      const id = load<u32>(q, BLOCK.PRIM);
      if (id == 0xffffffff) break;
      writeTriangle(q, id);
      for (let k: usize = 0; k < 12; k += 4) {
        const p = v128.load(positions + <usize>load<u32>(indices + <usize>id * 12 + k) * 12);
        lo = f32x4.pmin(lo, p);
        hi = f32x4.pmax(hi, p);
      }
    }
  } else
    for (let i: usize = 0; i < 4; i++) {
      const q = <usize>ref + (i << 2);
      const child = load<u32>(q, NODE.REF);
      if (!child) continue;
      refit(child, box + 32);
      const a = v128.load(box + 32);
      const b = v128.load(box + 32, 16);
      for (let x: usize = 0; x < 3; x++) {
        store<f32>(q + x * 16, load<f32>(box + 32 + x * 4));
        store<f32>(q + x * 16, load<f32>(box + 48 + x * 4), 48);
      }
      lo = f32x4.pmin(lo, a);
      hi = f32x4.pmax(hi, b);
    }
  v128.store(box, lo);
  v128.store(box, hi, 16);
}

/**
 * Brings a mesh's structure, built with other positions of the same triangles, to these: its shape stays, so it takes
 * what it took.
 */
export function refitMesh(root: u32, pos: usize, idx: usize, scratch: usize): void {
  positions = pos;
  indices = idx;
  refit(root, scratch);
}

/**
 * Builds over n ≥ 1 instances whose records at inst hold object→world and the mesh's root; fills in world→object.
 * World boxes are padded by more than the rounding of the ray transform, so that whether an instance is tried never
 * depends on the tree above it.
 */
export function buildInstances(inst: usize, n: i32, rec: usize, scratch: usize, out: usize): u32 {
  overInstances = true;
  records = rec;
  top = out;
  instances = inst;
  for (let i: i32 = 0; i < n; i++) {
    const o = inst + <usize>i * INST.BYTES;
    const m = o + INST.FORWARD;
    const r = rec + ((<usize>i) << 5);
    const root = load<u32>(o, INST.ROOT);
    let lx: f32 = Infinity;
    let ly: f32 = Infinity;
    let lz: f32 = Infinity;
    let hx: f32 = -Infinity;
    let hy: f32 = -Infinity;
    let hz: f32 = -Infinity;
    for (let k: usize = 0; k < 16; k += 4) {
      const q = <usize>root + k;
      if (!load<u32>(q, NODE.REF)) continue;
      lx = min<f32>(lx, load<f32>(q));
      ly = min<f32>(ly, load<f32>(q, 16));
      lz = min<f32>(lz, load<f32>(q, 32));
      hx = max<f32>(hx, load<f32>(q, 48));
      hy = max<f32>(hy, load<f32>(q, 64));
      hz = max<f32>(hz, load<f32>(q, 80));
    }
    const half: f32 = 0.5;
    const cx = (lx + hx) * half;
    const cy = (ly + hy) * half;
    const cz = (lz + hz) * half;
    const ex = (hx - lx) * half;
    const ey = (hy - ly) * half;
    const ez = (hz - lz) * half;
    for (let k: usize = 0; k < 12; k += 4) {
      const a = load<f32>(m + k);
      const b = load<f32>(m + k, 12);
      const c = load<f32>(m + k, 24);
      const t = load<f32>(m + k, 36);
      const w = a * cx + b * cy + c * cz + t;
      const h =
        (abs<f32>(a) * ex + abs<f32>(b) * ey + abs<f32>(c) * ez) * <f32>1.00001 +
        (abs<f32>(w) + abs<f32>(t)) * <f32>2e-6;
      store<f32>(r + k, w - h);
      store<f32>(r + k, w + h, 16);
    }
    store<i32>(r, i, 12);
    store<i32>(r, 0, 28);
    // inverse in double precision: rows of cofactors over the determinant
    const a: f64 = load<f32>(m);
    const d: f64 = load<f32>(m, 4);
    const g: f64 = load<f32>(m, 8);
    const b: f64 = load<f32>(m, 12);
    const e: f64 = load<f32>(m, 16);
    const h: f64 = load<f32>(m, 20);
    const c: f64 = load<f32>(m, 24);
    const f: f64 = load<f32>(m, 28);
    const k: f64 = load<f32>(m, 32);
    const tx: f64 = load<f32>(m, 36);
    const ty: f64 = load<f32>(m, 40);
    const tz: f64 = load<f32>(m, 44);
    const A = e * k - f * h;
    const B = f * g - d * k;
    const C = d * h - e * g;
    const s = 1.0 / (a * A + b * B + c * C);
    const i0 = A * s;
    const i1 = (c * h - b * k) * s;
    const i2 = (b * f - c * e) * s;
    const i3 = B * s;
    const i4 = (a * k - c * g) * s;
    const i5 = (c * d - a * f) * s;
    const i6 = C * s;
    const i7 = (b * g - a * h) * s;
    const i8_ = (a * e - b * d) * s;
    store<f32>(o, <f32>i0);
    store<f32>(o, <f32>i3, 4);
    store<f32>(o, <f32>i6, 8);
    store<f32>(o, <f32>i1, 16);
    store<f32>(o, <f32>i4, 20);
    store<f32>(o, <f32>i7, 24);
    store<u32>(o, i, INST.INDEX);
    store<f32>(o, <f32>i2, 32);
    store<f32>(o, <f32>i5, 36);
    store<f32>(o, <f32>i8_, 40);
    store<f32>(o, <f32>-(i0 * tx + i1 * ty + i2 * tz), 48);
    store<f32>(o, <f32>-(i3 * tx + i4 * ty + i5 * tz), 52);
    store<f32>(o, <f32>-(i6 * tx + i7 * ty + i8_ * tz), 56);
  }
  return run(n, scratch);
}
