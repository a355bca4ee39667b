// Meets rays that go much the same way, four together, one a SIMD lane: camera rays tile by tile, and shadow rays towards a sun.
// Against the ray-by-ray form a packet tests a box for four rays at once, so that the branches of sorting and stacking, which a processor guesses
// wrongly, are shared; where the four go apart it loses, so bounced rays do not come here. Same rules of ties and rounding as traverse.ts,
// and the same leaf test, so a ray gets the same hit from either.
//
// Memory (64-aligned): 0 origin x y z | 48 direction | 96 1/direction | 144 best | 160 tMin | 176 masks (u32) | 192 boxes of a node | 256 lanes (48 B) | 304 ranges (48 B) | 352 blockers | 384 world-space origin to 1/direction and ranges, for leaving instances | 576 stack
// of 32 B: reference, unused, entry distances at 16.
import { HIT_BYTES, HIT_INST, HIT_PRIM, INST_MASK, INST_ROOT, NODE_REF, RAY_BYTES, RAY_DIR, RAY_MASK, RAY_TMAX, RAY_TMIN, REF_END, REF_INSTANCE, REF_LEAVE, REF_MASK } from './layout';
import { closestAlone, occludedAlone } from './alone';
import { LOWER, NONE, blocksAny, blocksClosest } from './traverse';

/** With so many rays left that go together, each goes on alone. */
const APART: i32 = 2;
const P_BEST: usize = 144, P_TMIN: usize = 160, P_MASKS: usize = 176, P_NEAR: usize = 192, P_LANES: usize = 256, P_RANGE: usize = 304, P_BLOCKERS: usize = 352, P_SAVED: usize = 384, P_STACK: usize = 576, P_ALONE: usize = 20480, ENTRY: usize = 32;

// @ts-ignore
@inline function put(s: usize, lane: usize, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32): void {
  const q = s + (lane << 2), one: f32 = 1;
  store<f32>(q, ox); store<f32>(q, oy, 16); store<f32>(q, oz, 32); store<f32>(q, dx, 48); store<f32>(q, dy, 64); store<f32>(q, dz, 80);
  store<f32>(q, one / dx, 96); store<f32>(q, one / dy, 112); store<f32>(q, one / dz, 128);
}
/** Rays in world space into the lanes; lanes beyond n repeat the first. */
function toWorld(s: usize, ray: usize, n: usize): void {
  for (let i: usize = 0; i < 4; i++) {
    const r = ray + (i < n ? i : 0) * RAY_BYTES;
    put(s, i, load<f32>(r), load<f32>(r, 4), load<f32>(r, 8), load<f32>(r, RAY_DIR), load<f32>(r, RAY_DIR + 4), load<f32>(r, RAY_DIR + 8));
  }
}
/** The packet in world space, put aside and back. */
// @ts-ignore
@inline function save(s: usize): void {
  for (let k: usize = 0; k < 144; k += 16) v128.store(s + k, v128.load(s + k), P_SAVED);
  for (let k: usize = 0; k < 48; k += 16) v128.store(s + k, v128.load(s + k, P_RANGE), P_SAVED + 144);
}
// @ts-ignore
@inline function restore(s: usize): void {
  for (let k: usize = 0; k < 144; k += 16) v128.store(s + k, v128.load(s + k, P_SAVED));
  for (let k: usize = 0; k < 48; k += 16) v128.store(s + k, v128.load(s + k, P_SAVED + 144), P_RANGE);
}
function begin(s: usize, ray: usize, n: usize, root: u32): void {
  toWorld(s, ray, n);
  for (let i: usize = 0; i < 4; i++) {
    const r = ray + (i < n ? i : 0) * RAY_BYTES, q = s + (i << 2);
    store<f32>(q, i < n ? load<f32>(r, RAY_TMAX) : -1, P_BEST); store<f32>(q, load<f32>(r, RAY_TMIN), P_TMIN); store<u32>(q, load<u32>(r, RAY_MASK), P_MASKS);
  }
  store<u32>(s + P_STACK, REF_END);
}
// @ts-ignore
@inline function toObject(s: usize, q: usize): void {
  const ox = v128.load(s), oy = v128.load(s, 16), oz = v128.load(s, 32), dx = v128.load(s, 48), dy = v128.load(s, 64), dz = v128.load(s, 80), one = f32x4.splat(1);
  for (let a: usize = 0; a < 3; a++) { // the same order of operations as traverse.ts, so that the same numbers come out
    const k = q + (a << 2), c0 = v128.load32_splat(k), c1 = v128.load32_splat(k, 16), c2 = v128.load32_splat(k, 32), c3 = v128.load32_splat(k, 48), to = s + (a << 4);
    v128.store(to, f32x4.add(f32x4.add(f32x4.mul(c0, ox), f32x4.mul(c1, oy)), f32x4.add(f32x4.mul(c2, oz), c3)));
    const d = f32x4.add(f32x4.add(f32x4.mul(c0, dx), f32x4.mul(c1, dy)), f32x4.mul(c2, dz));
    v128.store(to, d, 48); v128.store(to, f32x4.div(one, d), 96);
  }
}
/**
 * Offsets in a node of the planes at which the packet's rays enter boxes, 8 bits an axis, or MIXED where its rays do not all go the same way along every axis.
 */
const MIXED: u32 = 0xffffffff;
function sides(s: usize, ranges: bool): u32 { // too large to be inlined, on purpose: inlined it costs the loops around it a quarter of their speed
  const x = i32x4.bitmask(v128.load(s, 48)), y = i32x4.bitmask(v128.load(s, 64)), z = i32x4.bitmask(v128.load(s, 80));
  if ((x && x != 15) || (y && y != 15) || (z && z != 15)) return MIXED;
  if (ranges) { range(s, x != 0); range(s + 16, y != 0); range(s + 32, z != 0); }
  return (x ? 48 : 0) | (y ? 64 : 16) << 8 | (z ? 80 : 32) << 16;
}
// @ts-ignore
@inline function least(v: v128): f32 { const a = f32x4.pmin(v, v128.shuffle<u32>(v, v, 2, 3, 0, 1)); return min<f32>(f32x4.extract_lane(a, 0), f32x4.extract_lane(a, 1)); }
// @ts-ignore
@inline function most(v: v128): f32 { const a = f32x4.pmax(v, v128.shuffle<u32>(v, v, 2, 3, 0, 1)); return max<f32>(f32x4.extract_lane(a, 0), f32x4.extract_lane(a, 1)); }
/** Ranges of the packet along one axis: the origin that meets near planes first, the one that meets far planes last, and both ends of 1/direction. */
function range(q: usize, backwards: bool): void {
  const o = v128.load(q), i = v128.load(q, 96), lo = least(o), hi = most(o), to = q + P_RANGE;
  store<f32>(to, backwards ? lo : hi); store<f32>(to, backwards ? hi : lo, 4); store<f32>(to, least(i), 8); store<f32>(to, most(i), 12);
}
/**
 * Bits of the node's children that some ray of the packet may enter: one test of four boxes for all rays, by interval arithmetic. Rounding keeps order, so it never
 * misses what enters() finds.
 */
// @ts-ignore
@inline function candidates(s: usize, c: usize, nx: usize, ny: usize, nz: usize): i32 {
  const r = s + P_RANGE;
  let near = f32x4.splat(0), far = f32x4.splat(Infinity);
  let a = f32x4.sub(v128.load(c + nx), v128.load32_splat(r)), b = f32x4.sub(v128.load(c + 48 - nx), v128.load32_splat(r, 4)), i = v128.load32_splat(r, 8), j = v128.load32_splat(r, 12);
  near = f32x4.pmax(near, f32x4.pmin(f32x4.mul(a, i), f32x4.mul(a, j))); far = f32x4.pmin(far, f32x4.pmax(f32x4.mul(b, i), f32x4.mul(b, j)));
  a = f32x4.sub(v128.load(c + ny), v128.load32_splat(r, 16)); b = f32x4.sub(v128.load(c + 80 - ny), v128.load32_splat(r, 20)); i = v128.load32_splat(r, 24); j = v128.load32_splat(r, 28);
  near = f32x4.pmax(near, f32x4.pmin(f32x4.mul(a, i), f32x4.mul(a, j))); far = f32x4.pmin(far, f32x4.pmax(f32x4.mul(b, i), f32x4.mul(b, j)));
  a = f32x4.sub(v128.load(c + nz), v128.load32_splat(r, 32)); b = f32x4.sub(v128.load(c + 112 - nz), v128.load32_splat(r, 36)); i = v128.load32_splat(r, 40); j = v128.load32_splat(r, 44);
  near = f32x4.pmax(near, f32x4.pmin(f32x4.mul(a, i), f32x4.mul(a, j))); far = f32x4.pmin(far, f32x4.pmax(f32x4.mul(b, i), f32x4.mul(b, j)));
  return i32x4.bitmask(f32x4.le(f32x4.mul(near, f32x4.splat(LOWER)), far));
}
/** Entry distances of four rays into a child's box, Infinity where a ray misses it or is not among the living. */
// @ts-ignore
@inline function enters(c: usize, n: usize, ny: usize, nz: usize, ox: v128, oy: v128, oz: v128, ix: v128, iy: v128, iz: v128, best: v128, alive: v128): v128 {
  // the running value stands first: where 0 × Infinity gives NaN, pmin and pmax then keep it
  // the running value stands first: where 0 × Infinity gives NaN, pmin and pmax then keep it
  let near = f32x4.pmax(f32x4.splat(0), f32x4.mul(f32x4.sub(v128.load32_splat(c + n), ox), ix));
  near = f32x4.pmax(near, f32x4.mul(f32x4.sub(v128.load32_splat(c + ny), oy), iy));
  near = f32x4.mul(f32x4.pmax(near, f32x4.mul(f32x4.sub(v128.load32_splat(c + nz), oz), iz)), f32x4.splat(LOWER));
  let far = f32x4.pmin(best, f32x4.mul(f32x4.sub(v128.load32_splat(c + 48 - n), ox), ix));
  far = f32x4.pmin(far, f32x4.mul(f32x4.sub(v128.load32_splat(c + 80 - ny), oy), iy));
  far = f32x4.pmin(far, f32x4.mul(f32x4.sub(v128.load32_splat(c + 112 - nz), oz), iz));
  return v128.bitselect(near, f32x4.splat(Infinity), v128.and(f32x4.le(near, far), alive));
}
/** Smallest of each of four vectors. */
// @ts-ignore
@inline function smallest(a: v128, b: v128, c: v128, d: v128): v128 {
  const ab = f32x4.pmin(v128.shuffle<u32>(a, b, 0, 4, 1, 5), v128.shuffle<u32>(a, b, 2, 6, 3, 7)), cd = f32x4.pmin(v128.shuffle<u32>(c, d, 0, 4, 1, 5), v128.shuffle<u32>(c, d, 2, 6, 3, 7));
  return f32x4.pmin(v128.shuffle<u32>(ab, cd, 0, 1, 4, 5), v128.shuffle<u32>(ab, cd, 2, 3, 6, 7));
}
// @ts-ignore
@inline function key(s: usize, c: usize): u64 { return (<u64>load<u32>(s + (c << 2), P_LANES) << 32) | <u64>c; }
// @ts-ignore
@inline function push(s: usize, sp: usize, node: u32, k: u64): usize {
  const c = <usize>(<u32>k);
  store<u32>(sp, load<u32>(<usize>node + (c << 2), NODE_REF)); v128.store(sp, v128.load(s + (c << 4), P_NEAR), 16);
  return sp + ENTRY;
}
/** Lanes of the packet whose ray may meet the instance. */
function allowed(s: usize, q: usize): v128 { return i32x4.ne(v128.and(v128.load(s, P_MASKS), i32x4.splat(load<u32>(q, INST_MASK) & 255)), i32x4.splat(0)); }

/** As closest() of traverse.ts, for rays that go together. */
export function closestTogether(root: u32, ray: usize, hit: usize, n: i32, s: usize, _inFlight: i32): void {
  const all = i32x4.splat(-1), inf = f32x4.splat(Infinity);
  for (let first: i32 = 0; first < n; first += 4, ray += 4 * RAY_BYTES, hit += 4 * HIT_BYTES) {
    const count = <usize>min<i32>(4, n - first);
    begin(s, ray, count, root);
    for (let i: usize = 0; i < count; i++) { store<u32>(hit + i * HIT_BYTES, NONE, HIT_PRIM); store<u32>(hit + i * HIT_BYTES, NONE, HIT_INST); }
    let way = sides(s, false), worldWay = way, saved = false, ref = root, sp = s + P_STACK + ENTRY, inst = NONE, alive = all, near = f32x4.splat(0), best = v128.load(s, P_BEST);
    while (true) {
      let next: u32 = 0;
      const together = i32x4.bitmask(v128.and(alive, f32x4.le(near, best)));
      if (popcnt(together) <= APART || way == MIXED) {
        for (let m = together; m; m &= m - 1) { const lane = <usize>ctz(m); const q = s + (lane << 2); store<f32>(q, closestAlone(ref, v128.load32_splat(q), v128.load32_splat(q, 16), v128.load32_splat(q, 32), v128.load32_splat(q, 48), v128.load32_splat(q, 64), v128.load32_splat(q, 80), v128.load32_splat(q, P_TMIN), load<f32>(q, P_BEST), load<u32>(q, P_MASKS), inst, hit + lane * HIT_BYTES, ray + lane * RAY_BYTES, s + P_ALONE), P_BEST); }
        best = v128.load(s, P_BEST);
      } else if (!(ref & REF_MASK)) {
        const ox = v128.load(s), oy = v128.load(s, 16), oz = v128.load(s, 32), ix = v128.load(s, 96), iy = v128.load(s, 112), iz = v128.load(s, 128), c: usize = ref, nx: usize = way & 255, ny: usize = way >> 8 & 255, nz: usize = way >> 16;
        const a = enters(c, nx, ny, nz, ox, oy, oz, ix, iy, iz, best, alive), b = enters(c + 4, nx, ny, nz, ox, oy, oz, ix, iy, iz, best, alive), d = enters(c + 8, nx, ny, nz, ox, oy, oz, ix, iy, iz, best, alive), e = enters(c + 12, nx, ny, nz, ox, oy, oz, ix, iy, iz, best, alive);
        const keys = smallest(a, b, d, e);
        let m = i32x4.bitmask(f32x4.lt(keys, inf));
        if (m) {
          const c0 = <usize>ctz(m); m &= m - 1;
          v128.store(s, a, P_NEAR); v128.store(s, b, P_NEAR + 16); v128.store(s, d, P_NEAR + 32); v128.store(s, e, P_NEAR + 48);
          if (!m) { near = v128.load(s + (c0 << 4), P_NEAR); ref = load<u32>(c + (c0 << 2), NODE_REF); continue; }
          v128.store(s, keys, P_LANES);
          let p = key(s, c0), q = key(s, ctz(m)), x = p < q ? p : q, y = p < q ? q : p; m &= m - 1;
          if (m) {
            let k = key(s, ctz(m)), z = y < k ? k : y; m &= m - 1;
            k = y < k ? y : k; p = x < k ? x : k; y = x < k ? k : x; x = p;
            if (m) {
              k = key(s, ctz(m));
              sp = push(s, sp, ref, z < k ? k : z);
              k = z < k ? z : k; z = y < k ? k : y; k = y < k ? y : k; p = x < k ? x : k; y = x < k ? k : x; x = p;
            }
            sp = push(s, sp, ref, z);
          }
          sp = push(s, sp, ref, y);
          near = v128.load(s + (<usize>(<u32>x) << 4), P_NEAR); ref = load<u32>(c + (<usize>(<u32>x) << 2), NODE_REF);
          continue;
        }
      } else if ((ref & REF_MASK) == REF_INSTANCE) {
        const q: usize = ref & ~REF_MASK, may = v128.and(v128.and(alive, f32x4.le(near, best)), allowed(s, q));
        if (v128.any_true(may)) {
          if (inst == NONE && !saved) { save(s); saved = true; }
          toObject(s, q); way = sides(s, false);
          store<u32>(sp, REF_LEAVE); sp += ENTRY;
          inst = <u32>q; alive = may; ref = load<u32>(q, INST_ROOT);
          continue;
        }
      } else {
        for (let m = i32x4.bitmask(v128.and(alive, f32x4.le(near, best))); m; m &= m - 1) {
          const lane = <usize>ctz(m), q = s + (lane << 2), h = hit + lane * HIT_BYTES;
          const got = blocksClosest(ref, v128.load32_splat(q), v128.load32_splat(q, 16), v128.load32_splat(q, 32), v128.load32_splat(q, 48), v128.load32_splat(q, 64), v128.load32_splat(q, 80), v128.load32_splat(q, P_TMIN), load<f32>(q, P_BEST), inst, h, ray + lane * RAY_BYTES, s + P_LANES);
          store<f32>(q, got, P_BEST);
        }
        best = v128.load(s, P_BEST);
      }
      do {
        sp -= ENTRY; next = load<u32>(sp);
        if (next == REF_END) break;
        if (next == REF_LEAVE) { restore(s); way = worldWay; inst = NONE; alive = all; continue; }
        near = v128.load(sp, 16);
        if (v128.any_true(f32x4.le(near, best))) break;
      } while (true);
      if (next == REF_END) break;
      ref = next;
    }
    for (let i: usize = 0; i < count; i++) store<f32>(hit + i * HIT_BYTES, load<f32>(s + (i << 2), P_BEST));
  }
}

/** As occluded() of traverse.ts, for rays that go together. */
export function occludedTogether(root: u32, ray: usize, out: usize, n: i32, s: usize, _inFlight: i32): void {
  const zero = f32x4.splat(0), inf = f32x4.splat(Infinity);
  for (let first: i32 = 0; first < n; first += 4, ray += 4 * RAY_BYTES, out += 16) {
    const count = <usize>min<i32>(4, n - first);
    begin(s, ray, count, root);
    let way = sides(s, true), worldWay = way, saved = false, ref = root, sp = s + P_STACK + ENTRY, inst = NONE, best = v128.load(s, P_BEST), alive = f32x4.ge(best, zero), living = alive, near = alive, blocker: i32 = 0;
    v128.store(s, zero, P_BLOCKERS);
    while (true) {
      let next: u32 = 0;
      const together = i32x4.bitmask(v128.and(alive, near));
      if (popcnt(together) <= APART || way == MIXED) {
        for (let m = together; m; m &= m - 1) { const lane = <usize>ctz(m); const q = s + (lane << 2); blocker = occludedAlone(ref, v128.load32_splat(q), v128.load32_splat(q, 16), v128.load32_splat(q, 32), v128.load32_splat(q, 48), v128.load32_splat(q, 64), v128.load32_splat(q, 80), v128.load32_splat(q, P_TMIN), v128.load32_splat(q, P_BEST), load<u32>(q, P_MASKS), inst, ray + lane * RAY_BYTES, s + P_ALONE); if (blocker) { store<i32>(q, blocker, P_BLOCKERS); store<f32>(q, -1, P_BEST); } }
        best = v128.load(s, P_BEST); living = f32x4.ge(best, zero); alive = v128.and(alive, living);
        if (!v128.any_true(living)) break;
      } else if (!(ref & REF_MASK)) {
        const ox = v128.load(s), oy = v128.load(s, 16), oz = v128.load(s, 32), ix = v128.load(s, 96), iy = v128.load(s, 112), iz = v128.load(s, 128), c: usize = ref, nx: usize = way & 255, ny: usize = way >> 8 & 255, nz: usize = way >> 16;
        let chosen: u32 = 0;
        for (let m = candidates(s, c, nx, ny, nz); m; m &= m - 1) {
          const k = <usize>ctz(m), r = load<u32>(c + (k << 2), NODE_REF);
          const e = f32x4.lt(enters(c + (k << 2), nx, ny, nz, ox, oy, oz, ix, iy, iz, best, alive), inf);
          if (!v128.any_true(e)) continue;
          if (!chosen) { chosen = r; near = e; }
          else { store<u32>(sp, r); v128.store(sp, e, 16); sp += ENTRY; }
        }
        if (chosen) { ref = chosen; continue; }
      } else if ((ref & REF_MASK) == REF_INSTANCE) {
        const q: usize = ref & ~REF_MASK, may = v128.and(v128.and(alive, near), allowed(s, q));
        if (v128.any_true(may)) {
          if (inst == NONE && !saved) { save(s); saved = true; }
          toObject(s, q); way = sides(s, true);
          store<u32>(sp, REF_LEAVE); sp += ENTRY;
          inst = <u32>q; alive = may; ref = load<u32>(q, INST_ROOT);
          continue;
        }
      } else {
        for (let m = i32x4.bitmask(v128.and(alive, near)); m; m &= m - 1) {
          const lane = <usize>ctz(m), q = s + (lane << 2);
          blocker = blocksAny(ref, v128.load32_splat(q), v128.load32_splat(q, 16), v128.load32_splat(q, 32), v128.load32_splat(q, 48), v128.load32_splat(q, 64), v128.load32_splat(q, 80), v128.load32_splat(q, P_TMIN), v128.load32_splat(q, P_BEST), inst, ray + lane * RAY_BYTES, s + P_LANES);
          if (blocker) { store<i32>(q, blocker, P_BLOCKERS); store<f32>(q, -1, P_BEST); }
        }
        best = v128.load(s, P_BEST); living = f32x4.ge(best, zero); alive = v128.and(alive, living);
        if (!v128.any_true(living)) break;
      }
      do {
        sp -= ENTRY; next = load<u32>(sp);
        if (next == REF_END) break;
        if (next == REF_LEAVE) { restore(s); way = worldWay; inst = NONE; alive = living; continue; }
        near = v128.load(sp, 16);
        if (v128.any_true(v128.and(near, alive))) break;
      } while (true);
      if (next == REF_END) break;
      ref = next;
    }
    for (let i: usize = 0; i < count; i++) store<i32>(out + (i << 2), load<i32>(s + (i << 2), P_BLOCKERS));
  }
}
