// Meets rays with the two-level hierarchy, several rays in flight at once. What was tried (prototype, 790,000
// triangles, ratio to the reference on incoherent rays): one ray at a time 0.77; ten interleaved 1.03. Memory latency
// is the cost, so every ray in flight first touches the node it wants next, and only then is each stepped once. Twenty
// in flight won 3 % over ten on a later machine; touching by fewer rays at a time, nearer to their steps, lost 5 to 20
// %. Nodes have a loop of their own, so that leaves and the rest, which a processor cannot foresee, do not hold it up:
// any hit 1.09 times as fast, nearest hit 0.97 to 1.02 times.
//
// Ties and rounding. A result must not depend on the tree's shape, as culling changes the tree: equal distances go to
// the lower instance, then by where on their triangles they are; boxes and stacked entries at exactly the best distance
// are still visited; entry distances are lowered by more than rounding (boxes.ts). The integrator, slices and culling
// rely on it.
//
// Slot: 0 origin x y z, 48 1/direction x y z (each in four lanes) | 96 direction, tMin | 112 best, reference, stack
// pointer, hit address | 128 ray address, instance address
//       144 lanes to work in (48 B) | 192 stack
import * as BLOCK from './layout/block';
import * as HIT from './layout/hit';
import * as INST from './layout/instance';
import * as NODE from './layout/node';
import * as RAY from './layout/ray';
import * as REF from './layout/reference';
import { reach } from './geometry';
import { pierced } from './alpha';
import { FIRST, inverse, pushAny, pushNearest, slabs } from './boxes';
import { reachedAny, reachedNearest } from './stubs';

export const NONE: u32 = 0xffffffff;
/** Nothing lies as near as that: a ray that goes again meets nothing more. */
const WAITING: f32 = -1;

const SLOT_INVERSE: usize = 48;
const SLOT_DIR: usize = 96;
const SLOT_TMIN: usize = 108;
const SLOT_BEST: usize = 112;
const SLOT_REF: usize = 116;
const SLOT_SP: usize = 120;
const SLOT_HIT: usize = 124;
const SLOT_RAY: usize = 128;
const SLOT_INST: usize = 132;
const SLOT_LANES: usize = 144;
const SLOT_STACK: usize = 192;
// @ts-ignore
@inline function setRay(s: usize, o: v128, d: v128): void {
  const i = inverse(d);
  v128.store(s, v128.shuffle<u32>(o, o, 0, 0, 0, 0));
  v128.store(s, v128.shuffle<u32>(o, o, 1, 1, 1, 1), 16);
  v128.store(s, v128.shuffle<u32>(o, o, 2, 2, 2, 2), 32);
  v128.store(s, v128.shuffle<u32>(i, i, 0, 0, 0, 0), SLOT_INVERSE);
  v128.store(s, v128.shuffle<u32>(i, i, 1, 1, 1, 1), SLOT_INVERSE + 16);
  v128.store(s, v128.shuffle<u32>(i, i, 2, 2, 2, 2), SLOT_INVERSE + 32);
  v128.store64_lane(s, d, 0, SLOT_DIR);
  v128.store32_lane(s, d, 2, SLOT_DIR + 8);
}
// @ts-ignore
@inline function start(s: usize, root: u32, ray: usize, hit: usize): void {
  setRay(s, v128.load(ray), v128.load(ray, RAY.DIR));
  store<f32>(s, load<f32>(ray, RAY.TMIN), SLOT_TMIN);
  store<f32>(s, min<f32>(load<f32>(ray, RAY.TMAX), f32.MAX_VALUE), SLOT_BEST);
  store<u32>(s, root, SLOT_REF);
  store<u32>(s, <u32>(s + SLOT_STACK), SLOT_SP);
  store<u32>(s, <u32>hit, SLOT_HIT);
  store<u32>(s, <u32>ray, SLOT_RAY);
  store<u32>(s, NONE, SLOT_INST);
  store<u32>(s, REF.END, SLOT_STACK);
  store<i32>(s, FIRST, SLOT_STACK + 4);
}
/**
 * Enters instance q, unless the ray's mask says otherwise: the ray goes to object space, and the stack (of entries of
 * so many bytes) remembers to leave. Returns whether it did.
 */
// @ts-ignore
@inline function enter(s: usize, q: usize, sp: usize, entry: usize): bool {
  const ray: usize = load<u32>(s, SLOT_RAY);
  if (!(load<u32>(q, INST.MASK) & load<u32>(ray, RAY.MASK))) return false;
  reach(q);
  // the columns' fourth lanes hold integers, which as floats are denormals: they must not be multiplied
  const c0 = f32x4.replace_lane(v128.load(q), 3, 0);
  const c1 = f32x4.replace_lane(v128.load(q, 16), 3, 0);
  const c2 = f32x4.replace_lane(v128.load(q, 32), 3, 0);
  const c3 = v128.load(q, 48);
  const o = f32x4.add(
    f32x4.add(f32x4.mul(c0, v128.load32_splat(ray)), f32x4.mul(c1, v128.load32_splat(ray, 4))),
    f32x4.add(f32x4.mul(c2, v128.load32_splat(ray, 8)), c3),
  );
  const d = f32x4.add(
    f32x4.add(f32x4.mul(c0, v128.load32_splat(ray, RAY.DIR)), f32x4.mul(c1, v128.load32_splat(ray, RAY.DIR + 4))),
    f32x4.mul(c2, v128.load32_splat(ray, RAY.DIR + 8)),
  );
  setRay(s, o, d);
  store<u32>(s, <u32>q, SLOT_INST);
  store<u32>(sp + entry, REF.LEAVE);
  if (entry == 8) store<i32>(sp, FIRST, 12);
  store<u32>(s, <u32>(sp + entry), SLOT_SP);
  store<u32>(s, load<u32>(q, INST.ROOT), SLOT_REF);
  return true;
}
// @ts-ignore
@inline function leave(s: usize): void {
  const ray: usize = load<u32>(s, SLOT_RAY);
  setRay(s, v128.load(ray), v128.load(ray, RAY.DIR));
  store<u32>(s, NONE, SLOT_INST);
}
/**
 * Reads what each ray in flight wants next, so that the misses overlap. The sum only keeps the reads from being
 * removed.
 */
// @ts-ignore
@inline function touch(first: usize, end: usize): u32 {
  let sum: u32 = 0;
  for (let s = first; s < end; s += RAY.SLOT_BYTES) {
    const ref = load<u32>(s, SLOT_REF);
    const p = ref & ~REF.MASK;
    sum ^= load<u32>(p) ^ load<u32>(p, 64) ^ load<u32>(p + (ref & REF.MASK ? 144 : 64));
  }
  return sum;
}
/**
 * Meets one ray with the triangle blocks of a leaf (Möller & Trumbore 1997, dividing only on a hit). Returns the
 * nearest distance known after it, below 0 where the ray has to go again; h gets the hit. lanes: 48 B to work in.
 */
// @ts-ignore
@inline export function blocksClosest(
  ref: u32,
  ox: v128,
  oy: v128,
  oz: v128,
  dx: v128,
  dy: v128,
  dz: v128,
  tMin: v128,
  best: f32,
  inst: u32,
  h: usize,
  ray: usize,
  lanes: usize,
): f32 {
  let p: usize = ref & ~REF.MASK;
  if ((ref & REF.MASK) == REF.STUB) {
    return reachedNearest(p, ray, h, ox, oy, oz, dx, dy, dz) ? WAITING : best;
  }
  const e: usize = p + <usize>(ref & REF.MASK) * BLOCK.BYTES;
  do {
    const e1x = v128.load(p, 48);
    const e1y = v128.load(p, 64);
    const e1z = v128.load(p, 80);
    const e2x = v128.load(p, 96);
    const e2y = v128.load(p, 112);
    const e2z = v128.load(p, 128);
    const px = f32x4.sub(f32x4.mul(dy, e2z), f32x4.mul(dz, e2y));
    const py = f32x4.sub(f32x4.mul(dz, e2x), f32x4.mul(dx, e2z));
    const pz = f32x4.sub(f32x4.mul(dx, e2y), f32x4.mul(dy, e2x));
    const det = f32x4.add(f32x4.add(f32x4.mul(e1x, px), f32x4.mul(e1y, py)), f32x4.mul(e1z, pz));
    const tx = f32x4.sub(ox, v128.load(p));
    const ty = f32x4.sub(oy, v128.load(p, 16));
    const tz = f32x4.sub(oz, v128.load(p, 32));
    const sign = v128.and(det, i32x4.splat(0x80000000));
    const ad = v128.xor(det, sign);
    const zero = f32x4.splat(0);
    const u = v128.xor(sign, f32x4.add(f32x4.add(f32x4.mul(tx, px), f32x4.mul(ty, py)), f32x4.mul(tz, pz)));
    const qx = f32x4.sub(f32x4.mul(ty, e1z), f32x4.mul(tz, e1y));
    const qy = f32x4.sub(f32x4.mul(tz, e1x), f32x4.mul(tx, e1z));
    const qz = f32x4.sub(f32x4.mul(tx, e1y), f32x4.mul(ty, e1x));
    const v = v128.xor(sign, f32x4.add(f32x4.add(f32x4.mul(dx, qx), f32x4.mul(dy, qy)), f32x4.mul(dz, qz)));
    const m = v128.and(
      v128.and(f32x4.ge(u, zero), f32x4.ge(v, zero)),
      v128.and(f32x4.le(f32x4.add(u, v), ad), f32x4.gt(ad, zero)),
    );
    if (i32x4.bitmask(m)) {
      const t = v128.xor(sign, f32x4.add(f32x4.add(f32x4.mul(e2x, qx), f32x4.mul(e2y, qy)), f32x4.mul(e2z, qz)));
      const inv = f32x4.div(f32x4.splat(1), ad);
      const tt = f32x4.mul(t, inv);
      let mm = i32x4.bitmask(v128.and(m, v128.and(f32x4.gt(tt, tMin), f32x4.le(tt, f32x4.splat(best)))));
      if (mm) {
        const index: u32 = inst == NONE ? 0 : load<u32>(<usize>inst, INST.INDEX);
        v128.store(lanes, tt);
        v128.store(lanes, f32x4.mul(u, inv), 16);
        v128.store(lanes, f32x4.mul(v, inv), 32);
        do {
          const c = (<usize>ctz(mm)) << 2;
          mm &= mm - 1;
          const d = load<f32>(lanes + c);
          const prim = load<u32>(p + c, BLOCK.PRIM);
          if (d < best || (d == best && comesFirst(index, prim, lanes + c, h))) {
            if (
              inst != NONE &&
              load<u32>(<usize>inst, INST.MASK) & INST.PIERCED &&
              pierced(
                <usize>inst,
                prim,
                d,
                load<f32>(lanes + c, 16),
                load<f32>(lanes + c, 32),
                load<u32>(ray, RAY.SEED),
              )
            )
              continue;
            best = d;
            store<f32>(h, load<f32>(lanes + c, 16), HIT.U);
            store<f32>(h, load<f32>(lanes + c, 32), HIT.V);
            store<u32>(h, prim, HIT.PRIM);
            store<u32>(h, index, HIT.INST);
            store<u32>(h, (<u32>p) | (<u32>(c >> 2)), HIT.BLOCK);
          }
        } while (mm);
      }
    }
    p += BLOCK.BYTES;
  } while (p < e);
  return best;
}
/**
 * Which of two hits at one distance counts: the lower instance's; within it the one nearer to its triangle's first
 * corner, which does not depend on how triangles are numbered; of triangles that lie in each other, the lower one.
 */
function comesFirst(index: u32, prim: u32, lane: usize, h: usize): bool {
  const other = load<u32>(h, HIT.INST);
  if (index != other) return index < other;
  const u = load<f32>(lane, 16);
  const v = load<f32>(lane, 32);
  if (u != load<f32>(h, HIT.U)) return u < load<f32>(h, HIT.U);
  if (v != load<f32>(h, HIT.V)) return v < load<f32>(h, HIT.V);
  return prim < load<u32>(h, HIT.PRIM);
}
/** Whether one ray meets any triangle of a leaf's blocks in (tMin, best): the instance's number + 1, or 0. */
// @ts-ignore
@inline export function blocksAny(
  ref: u32,
  ox: v128,
  oy: v128,
  oz: v128,
  dx: v128,
  dy: v128,
  dz: v128,
  tMin: v128,
  best: v128,
  inst: u32,
  ray: usize,
  lanes: usize,
): i32 {
  let p: usize = ref & ~REF.MASK;
  let hit: i32 = 0;
  if ((ref & REF.MASK) == REF.STUB) {
    reachedAny(p, ray);
    return 0;
  }
  const e: usize = p + <usize>(ref & REF.MASK) * BLOCK.BYTES;
  do {
    const e1x = v128.load(p, 48);
    const e1y = v128.load(p, 64);
    const e1z = v128.load(p, 80);
    const e2x = v128.load(p, 96);
    const e2y = v128.load(p, 112);
    const e2z = v128.load(p, 128);
    const px = f32x4.sub(f32x4.mul(dy, e2z), f32x4.mul(dz, e2y));
    const py = f32x4.sub(f32x4.mul(dz, e2x), f32x4.mul(dx, e2z));
    const pz = f32x4.sub(f32x4.mul(dx, e2y), f32x4.mul(dy, e2x));
    const det = f32x4.add(f32x4.add(f32x4.mul(e1x, px), f32x4.mul(e1y, py)), f32x4.mul(e1z, pz));
    const tx = f32x4.sub(ox, v128.load(p));
    const ty = f32x4.sub(oy, v128.load(p, 16));
    const tz = f32x4.sub(oz, v128.load(p, 32));
    const sign = v128.and(det, i32x4.splat(0x80000000));
    const ad = v128.xor(det, sign);
    const zero = f32x4.splat(0);
    const u = v128.xor(sign, f32x4.add(f32x4.add(f32x4.mul(tx, px), f32x4.mul(ty, py)), f32x4.mul(tz, pz)));
    const qx = f32x4.sub(f32x4.mul(ty, e1z), f32x4.mul(tz, e1y));
    const qy = f32x4.sub(f32x4.mul(tz, e1x), f32x4.mul(tx, e1z));
    const qz = f32x4.sub(f32x4.mul(tx, e1y), f32x4.mul(ty, e1x));
    const v = v128.xor(sign, f32x4.add(f32x4.add(f32x4.mul(dx, qx), f32x4.mul(dy, qy)), f32x4.mul(dz, qz)));
    const t = v128.xor(sign, f32x4.add(f32x4.add(f32x4.mul(e2x, qx), f32x4.mul(e2y, qy)), f32x4.mul(e2z, qz)));
    const inside = v128.and(
      v128.and(f32x4.ge(u, zero), f32x4.ge(v, zero)),
      v128.and(f32x4.le(f32x4.add(u, v), ad), f32x4.gt(ad, zero)),
    );
    let m = i32x4.bitmask(
      v128.and(inside, v128.and(f32x4.gt(t, f32x4.mul(ad, tMin)), f32x4.lt(t, f32x4.mul(ad, best)))),
    );
    if (m) {
      if (inst == NONE || !(load<u32>(<usize>inst, INST.MASK) & INST.PIERCED)) {
        hit = inst == NONE ? 1 : <i32>load<u32>(<usize>inst, INST.INDEX) + 1;
        store<u32>(ray, load<u32>(p + ((<usize>ctz(m)) << 2), BLOCK.PRIM), RAY.MARKED);
        break;
      }
      const inv = f32x4.div(f32x4.splat(1), ad);
      v128.store(lanes, f32x4.mul(t, inv));
      v128.store(lanes, f32x4.mul(u, inv), 16);
      v128.store(lanes, f32x4.mul(v, inv), 32);
      for (; m; m &= m - 1) {
        const c = (<usize>ctz(m)) << 2;
        if (
          !pierced(
            <usize>inst,
            load<u32>(p + c, BLOCK.PRIM),
            load<f32>(lanes + c),
            load<f32>(lanes + c, 16),
            load<f32>(lanes + c, 32),
            load<u32>(ray, RAY.SEED),
          )
        ) {
          hit = <i32>load<u32>(<usize>inst, INST.INDEX) + 1;
          store<u32>(ray, load<u32>(p + c, BLOCK.PRIM), RAY.MARKED);
          break;
        }
      }
      if (hit) break;
    }
    p += BLOCK.BYTES;
  } while (p < e);
  return hit;
}

/**
 * Takes every ray that wants a node one step on, and puts those that want anything else next on a list (4 B each).
 * Returns its end.
 */
function stepNearest(slots: usize, end: usize, list: usize): usize {
  for (let s = slots; s < end; s += RAY.SLOT_BYTES) {
    let ref = load<u32>(s, SLOT_REF);
    if (ref & REF.MASK) continue;
    const best = load<f32>(s, SLOT_BEST);
    let sp = pushNearest(
      load<u32>(s, SLOT_SP),
      ref,
      slabs(
        true,
        ref,
        v128.load(s),
        v128.load(s, 16),
        v128.load(s, 32),
        v128.load(s, SLOT_INVERSE),
        v128.load(s, SLOT_INVERSE + 16),
        v128.load(s, SLOT_INVERSE + 32),
        f32x4.splat(best),
      ),
    );
    const within = reinterpret<i32>(best);
    if (load<i32>(sp, 4) > within)
      do sp -= 8;
      while (load<i32>(sp, 4) > within);
    ref = load<u32>(sp);
    store<u32>(s, ref, SLOT_REF);
    store<u32>(s, <u32>sp - 8, SLOT_SP);
    store<u32>(list, <u32>s);
    list += ref & REF.MASK ? 4 : 0;
  }
  return list;
}
/** As stepNearest(), for any hit. */
function stepAny(slots: usize, end: usize, list: usize): usize {
  for (let s = slots; s < end; s += RAY.SLOT_BYTES) {
    let ref = load<u32>(s, SLOT_REF);
    if (ref & REF.MASK) continue;
    const sp = pushAny(
      load<u32>(s, SLOT_SP),
      v128.load(ref, NODE.REF),
      slabs(
        false,
        ref,
        v128.load(s),
        v128.load(s, 16),
        v128.load(s, 32),
        v128.load(s, SLOT_INVERSE),
        v128.load(s, SLOT_INVERSE + 16),
        v128.load(s, SLOT_INVERSE + 32),
        v128.load32_splat(s, SLOT_BEST),
      ),
    );
    ref = load<u32>(sp);
    store<u32>(s, ref, SLOT_REF);
    store<u32>(s, <u32>sp - 4, SLOT_SP);
    store<u32>(list, <u32>s);
    list += ref & REF.MASK ? 4 : 0;
  }
  return list;
}
/** Nearest hit of n rays in (tMin, tMax]; a miss leaves HIT.INST and HIT.PRIM at 0xffffffff. */
export function closest(root: u32, ray: usize, hit: usize, n: i32, slots: usize, inFlight: i32): void {
  const rayEnd = ray + <usize>n * RAY.BYTES;
  const list = slots + <usize>inFlight * RAY.SLOT_BYTES;
  let end = slots;
  let listEnd = list;
  let sum: u32 = 0;
  let running: i32 = 0; // a slot whose ray is done and that gets no other points at REF.END, off the list
  for (; running < inFlight && ray < rayEnd; running++) {
    start(end, root, ray, hit);
    store<u32>(hit, NONE, HIT.PRIM);
    store<u32>(hit, NONE, HIT.INST);
    ray += RAY.BYTES;
    hit += HIT.BYTES;
    end += RAY.SLOT_BYTES;
  }
  while (running) {
    sum ^= touch(slots, end);
    let kept = list;
    for (let at = list; at < listEnd; at += 4) {
      const s: usize = load<u32>(at);
      let ref = load<u32>(s, SLOT_REF);
      let sp: usize = load<u32>(s, SLOT_SP);
      let best = load<f32>(s, SLOT_BEST);
      let kind = ref & REF.MASK;
      if (kind < <u32>REF.INSTANCE) {
        best = blocksClosest(
          ref,
          v128.load(s),
          v128.load(s, 16),
          v128.load(s, 32),
          v128.load32_splat(s, SLOT_DIR),
          v128.load32_splat(s, SLOT_DIR + 4),
          v128.load32_splat(s, SLOT_DIR + 8),
          v128.load32_splat(s, SLOT_TMIN),
          best,
          load<u32>(s, SLOT_INST),
          load<u32>(s, SLOT_HIT),
          load<u32>(s, SLOT_RAY),
          s + SLOT_LANES,
        );
        store<f32>(s, best, SLOT_BEST);
      } else if (kind == REF.INSTANCE) {
        if (enter(s, ref & ~REF.MASK, sp, 8)) continue;
      } else sp += 8; // a mark to leave or the end, found on the stack: read again
      const within = reinterpret<i32>(best);
      while (true) {
        while (load<i32>(sp, 4) > within) sp -= 8;
        ref = load<u32>(sp);
        sp -= 8;
        if (ref != REF.LEAVE) break;
        leave(s);
      }
      if (ref != REF.END) {
        store<u32>(s, ref, SLOT_REF);
        store<u32>(s, <u32>sp, SLOT_SP);
        if (ref & REF.MASK) {
          store<u32>(kept, <u32>s);
          kept += 4;
        } else sum ^= load<u32>(ref) ^ load<u32>(ref, 64);
        continue;
      }
      store<f32>(<usize>load<u32>(s, SLOT_HIT), best);
      if (ray < rayEnd) {
        start(s, root, ray, hit);
        store<u32>(hit, NONE, HIT.PRIM);
        store<u32>(hit, NONE, HIT.INST);
        ray += RAY.BYTES;
        hit += HIT.BYTES;
      } else {
        store<u32>(s, REF.END, SLOT_REF);
        running--;
      }
    }
    listEnd = stepNearest(slots, end, kept);
  }
  store<u32>(slots, sum);
}

/**
 * Whether anything lies in (tMin, tMax) of each of n rays: writes the number + 1 of an instance that does, or 0 (i32)
 * per ray. Unordered: the first thing found ends a ray.
 */
export function occluded(root: u32, ray: usize, out: usize, n: i32, slots: usize, inFlight: i32): void {
  const rayEnd = ray + <usize>n * RAY.BYTES;
  const list = slots + <usize>inFlight * RAY.SLOT_BYTES;
  let end = slots;
  let listEnd = list;
  let sum: u32 = 0;
  let running: i32 = 0;
  for (; running < inFlight && ray < rayEnd; running++) {
    start(end, root, ray, out);
    ray += RAY.BYTES;
    out += 4;
    end += RAY.SLOT_BYTES;
  }
  while (running) {
    sum ^= touch(slots, end);
    let kept = list;
    for (let at = list; at < listEnd; at += 4) {
      const s: usize = load<u32>(at);
      let ref = load<u32>(s, SLOT_REF);
      let sp: usize = load<u32>(s, SLOT_SP);
      let kind = ref & REF.MASK;
      let found: i32 = 0;
      if (kind < <u32>REF.INSTANCE) {
        found = blocksAny(
          ref,
          v128.load(s),
          v128.load(s, 16),
          v128.load(s, 32),
          v128.load32_splat(s, SLOT_DIR),
          v128.load32_splat(s, SLOT_DIR + 4),
          v128.load32_splat(s, SLOT_DIR + 8),
          v128.load32_splat(s, SLOT_TMIN),
          v128.load32_splat(s, SLOT_BEST),
          load<u32>(s, SLOT_INST),
          load<u32>(s, SLOT_RAY),
          s + SLOT_LANES,
        );
      } else if (kind == REF.INSTANCE) {
        if (enter(s, ref & ~REF.MASK, sp, 4)) continue;
      } else sp += 4;
      if (!found) {
        ref = load<u32>(sp);
        sp -= 4;
        while (ref == REF.LEAVE) {
          leave(s);
          ref = load<u32>(sp);
          sp -= 4;
        }
        if (ref != REF.END) {
          store<u32>(s, ref, SLOT_REF);
          store<u32>(s, <u32>sp, SLOT_SP);
          if (ref & REF.MASK) {
            store<u32>(kept, <u32>s);
            kept += 4;
          } else sum ^= load<u32>(ref) ^ load<u32>(ref, 64);
          continue;
        }
      }
      store<i32>(<usize>load<u32>(s, SLOT_HIT), found);
      if (ray < rayEnd) {
        start(s, root, ray, out);
        ray += RAY.BYTES;
        out += 4;
      } else {
        store<u32>(s, REF.END, SLOT_REF);
        running--;
      }
    }
    listEnd = stepAny(slots, end, kept);
  }
  store<u32>(slots, sum);
}
