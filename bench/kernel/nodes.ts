// Whether nodes of half the size pay: the engine's tree with its boxes as 8-bit steps of their parent's box (64 bytes a
// node, one cache line, instead of 128), met by the same loop as the engine's own nodes. Meshes alone, several rays in
// flight. For the benchmark of builds only: the engine does not use it.
//
// Quantised node: 0 origin x y z | 12 step x y z | 24 lower x y z (four bytes each) | 36 upper x y z | 48 references.
// Leaves stay as they are, after their node.
import * as BLOCK from '../../engine/kernel/layout/block';
import * as HIT from '../../engine/kernel/layout/hit';
import * as NODE from '../../engine/kernel/layout/node';
import * as RAY from '../../engine/kernel/layout/ray';
import * as REF from '../../engine/kernel/layout/reference';
import { FIRST, inverse, keys, pushAny, pushNearest, slabs } from '../../engine/kernel/boxes';
import { NONE, blocksAny, blocksClosest } from '../../engine/kernel/traverse';

export { buildEnd, buildMesh } from '../../engine/kernel/build';
/** First byte after the module's own constants. */
export function staticEnd(): usize {
  return __heap_base;
}

const Q_STEP: usize = 12;
const Q_LOWER: usize = 24;
const Q_UPPER: usize = 36;
const Q_REF: usize = 48;
const Q_BYTES: usize = 64;
let top: usize = 0;

/**
 * Writes the tree at ref, quantised, to out. Returns the new root's address; quantisedEnd() is the first free byte
 * after it.
 */
export function quantise(ref: u32, out: usize): u32 {
  top = out;
  return node(ref);
}
export function quantisedEnd(): u32 {
  return <u32>top;
}

/** A child's lower bound in steps above the parent's: rounded down; 0 where the parent is flat. */
function lower(at: usize, lo: f32, step: f32, flat: bool): u8 {
  return flat ? 0 : <u8>Mathf.floor((load<f32>(at) - lo) / step + <f32>0.99);
}
/** A child's upper bound: rounded up. */
function upper(at: usize, lo: f32, step: f32, flat: bool): u8 {
  return flat ? 2 : <u8>Mathf.ceil((load<f32>(at, 48) - lo) / step + <f32>1.01);
}

function node(ref: u32): u32 {
  const c: usize = ref;
  top = (top + 63) & ~63;
  const q = top;
  top += Q_BYTES;
  for (let a: usize = 0; a < 3; a++) {
    let lo: f32 = Infinity;
    let hi: f32 = -Infinity;
    for (let i: usize = 0; i < 4; i++)
      if (load<u32>(c + (i << 2), NODE.REF)) {
        lo = min<f32>(lo, load<f32>(c + a * 16 + (i << 2)));
        hi = max<f32>(hi, load<f32>(c + a * 16 + (i << 2), 48));
      }
    const step: f32 = (hi - lo) * <f32>(1.0001 / 253.0);
    store<f32>(q + a * 4, lo - step);
    store<f32>(q + a * 4, step, Q_STEP);
    for (let i: usize = 0; i < 4; i++) {
      // empty children: upper below lower
      const used = load<u32>(c + (i << 2), NODE.REF) != 0;
      const flat = !(step > 0);
      store<u8>(q + Q_LOWER + a * 4 + i, used ? lower(c + a * 16 + (i << 2), lo, step, flat) : 255);
      store<u8>(q + Q_UPPER + a * 4 + i, used ? upper(c + a * 16 + (i << 2), lo, step, flat) : 0);
    }
  }
  for (let i: usize = 0; i < 4; i++) {
    const r = load<u32>(c + (i << 2), NODE.REF);
    const blocks = r & REF.MASK;
    store<u32>(q + (i << 2), 0, Q_REF);
    if (!blocks) continue;
    memory.copy(top, r & ~REF.MASK, <usize>blocks * BLOCK.BYTES);
    store<u32>(q + (i << 2), (<u32>top) | blocks, Q_REF);
    top += <usize>blocks * BLOCK.BYTES;
  }
  for (let i: usize = 0; i < 4; i++) {
    const r = load<u32>(c + (i << 2), NODE.REF);
    if (r && !(r & REF.MASK)) store<u32>(q + (i << 2), node(r), Q_REF);
  }
  return <u32>q;
}

// Slot: 0 origin x y z, 48 1/direction x y z (each in four lanes) | 96 reference, stack pointer, best, hit address |
// 112 ray address | 128 lanes | 192 stack
const REF: usize = 96;
const SP: usize = 100;
const BEST: usize = 104;
const HIT: usize = 108;
const RAY: usize = 112;
const LANES: usize = 128;
const STACK: usize = 192;
// @ts-ignore
@inline function start(s: usize, root: u32, ray: usize, hit: usize): void {
  for (let a: usize = 0; a < 3; a++) {
    v128.store(s + (a << 4), v128.load32_splat(ray + (a << 2)));
    v128.store(s + (a << 4), inverse(v128.load32_splat(ray + (a << 2), RAY.DIR)), 48);
  }
  store<u32>(s, root, REF);
  store<u32>(s, <u32>(s + STACK), SP);
  store<f32>(s, min<f32>(load<f32>(ray, RAY.TMAX), f32.MAX_VALUE), BEST);
  store<u32>(s, <u32>hit, HIT);
  store<u32>(s, <u32>ray, RAY);
  store<u32>(s, REF.END, STACK);
  store<i32>(s, FIRST, STACK + 4);
}
// @ts-ignore
@inline function steps(p: usize): v128 {
  return f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(p))));
}
/** As slabs() of boxes.ts, for quantised boxes. */
// @ts-ignore
@inline function quantisedSlabs(ordered: bool, c: usize, s: usize, best: v128): v128 {
  let near = f32x4.splat(0);
  let far = best;
  for (let a: usize = 0; a < 3; a++) {
    const i = v128.load(s + (a << 4), 48);
    const from = f32x4.mul(f32x4.sub(v128.load32_splat(c + (a << 2)), v128.load(s + (a << 4))), i);
    const step = f32x4.mul(v128.load32_splat(c + (a << 2), Q_STEP), i);
    const lower = f32x4.add(from, f32x4.mul(steps(c + (a << 2) + Q_LOWER), step));
    const upper = f32x4.add(from, f32x4.mul(steps(c + (a << 2) + Q_UPPER), step));
    near = f32x4.pmax(near, f32x4.pmin(lower, upper));
    far = f32x4.pmin(far, f32x4.pmax(upper, lower));
  }
  return v128.or(keys(ordered, near, far), i32x4.eq(v128.load(c, Q_REF), i32x4.splat(0)));
}
// @ts-ignore
@inline function run(
  quantised: bool,
  any: bool,
  root: u32,
  ray: usize,
  hit: usize,
  n: i32,
  slots: usize,
  inFlight: i32,
): void {
  const rayEnd = ray + <usize>n * RAY.BYTES;
  const refAt: usize = quantised ? Q_REF : NODE.REF;
  const hitBytes: usize = any ? 4 : HIT.BYTES;
  const entry: usize = any ? 4 : 8;
  let end = slots;
  let sum: u32 = 0;
  for (let k: i32 = 0; k < inFlight && ray < rayEnd; k++) {
    start(end, root, ray, hit);
    if (!any) {
      store<u32>(hit, NONE, HIT.PRIM);
      store<u32>(hit, NONE, HIT.INST);
    }
    ray += RAY.BYTES;
    hit += hitBytes;
    end += RAY.SLOT_BYTES;
  }
  while (end > slots) {
    for (let s = slots; s < end; s += RAY.SLOT_BYTES) {
      const ref = load<u32>(s, REF);
      const p: usize = ref & ~REF.MASK;
      sum ^= load<u32>(p);
      if (ref & REF.MASK) sum ^= load<u32>(p, 64) ^ load<u32>(p, 144);
      else if (!quantised) sum ^= load<u32>(p, 64);
    }
    let s = slots;
    while (s < end) {
      let ref = load<u32>(s, REF);
      let sp: usize = load<u32>(s, SP);
      let best = load<f32>(s, BEST);
      let found: i32 = 0;
      const ox = v128.load(s);
      const oy = v128.load(s, 16);
      const oz = v128.load(s, 32);
      const r: usize = load<u32>(s, RAY);
      if (!(ref & REF.MASK)) {
        const c: usize = ref;
        const k = quantised
          ? quantisedSlabs(!any, c, s, f32x4.splat(best))
          : slabs(!any, c, ox, oy, oz, v128.load(s, 48), v128.load(s, 64), v128.load(s, 80), f32x4.splat(best));
        sp = any ? pushAny(sp, v128.load(c + refAt), k) : pushNearest(sp, c + refAt - NODE.REF, k);
      } else {
        const dx = v128.load32_splat(r, RAY.DIR);
        const dy = v128.load32_splat(r, RAY.DIR + 4);
        const dz = v128.load32_splat(r, RAY.DIR + 8);
        const tMin = v128.load32_splat(r, RAY.TMIN);
        if (any) found = blocksAny(ref, ox, oy, oz, dx, dy, dz, tMin, f32x4.splat(best), NONE, r, s + LANES);
        else {
          best = blocksClosest(ref, ox, oy, oz, dx, dy, dz, tMin, best, NONE, load<u32>(s, HIT), r, s + LANES);
          store<f32>(s, best, BEST);
        }
      }
      if (!any) while (load<i32>(sp, 4) > reinterpret<i32>(best)) sp -= 8;
      ref = found ? REF.END : load<u32>(sp);
      if (ref != REF.END) {
        store<u32>(s, ref, REF);
        store<u32>(s, <u32>(sp - entry), SP);
        s += RAY.SLOT_BYTES;
        continue;
      }
      if (any) store<i32>(<usize>load<u32>(s, HIT), found);
      else store<f32>(<usize>load<u32>(s, HIT), best);
      if (ray < rayEnd) {
        start(s, root, ray, hit);
        if (!any) {
          store<u32>(hit, NONE, HIT.PRIM);
          store<u32>(hit, NONE, HIT.INST);
        }
        ray += RAY.BYTES;
        hit += hitBytes;
        s += RAY.SLOT_BYTES;
      } else {
        end -= RAY.SLOT_BYTES;
        if (s < end) {
          memory.copy(s, end, RAY.SLOT_BYTES);
          store<u32>(s, load<u32>(end, SP) - <u32>end + <u32>s, SP);
        }
      }
    }
  }
  store<u32>(slots, sum);
}
export function closestFull(root: u32, ray: usize, hit: usize, n: i32, slots: usize, inFlight: i32): void {
  run(false, false, root, ray, hit, n, slots, inFlight);
}
export function closestQuantised(root: u32, ray: usize, hit: usize, n: i32, slots: usize, inFlight: i32): void {
  run(true, false, root, ray, hit, n, slots, inFlight);
}
export function anyFull(root: u32, ray: usize, hit: usize, n: i32, slots: usize, inFlight: i32): void {
  run(false, true, root, ray, hit, n, slots, inFlight);
}
export function anyQuantised(root: u32, ray: usize, hit: usize, n: i32, slots: usize, inFlight: i32): void {
  run(true, true, root, ray, hit, n, slots, inFlight);
}
