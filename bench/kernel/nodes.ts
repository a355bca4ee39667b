// Whether nodes of half the size pay: the engine's tree with its boxes as 8-bit steps of their parent's box (64 bytes a node, one cache line, instead of 128), met by the
// same loop as the engine's own nodes. Meshes alone, several rays in flight. For the benchmark of builds only: the engine does not use it.
//
// Quantised node: 0 origin x y z | 12 step x y z | 24 lower x y z (four bytes each) | 36 upper x y z | 48 references. Leaves stay as they are, after their node.
import { BLOCK_BYTES, HIT_BYTES, HIT_INST, HIT_PRIM, NODE_REF, RAY_BYTES, RAY_DIR, RAY_TMAX, RAY_TMIN, REF_END, REF_MASK, SLOT_BYTES } from '../../engine/kernel/layout';
import { LOWER, NONE, blocksAny, blocksClosest } from '../../engine/kernel/traverse';

export { buildEnd, buildMesh } from '../../engine/kernel/build';
/** First byte after the module's own constants. */
export function staticEnd(): usize { return __heap_base; }

const Q_STEP: usize = 12, Q_LOWER: usize = 24, Q_UPPER: usize = 36, Q_REF: usize = 48, Q_BYTES: usize = 64;
let top: usize = 0;

/** Writes the tree at ref, quantised, to out. Returns the new root's address; quantisedEnd() is the first free byte after it. */
export function quantise(ref: u32, out: usize): u32 { top = out; return node(ref); }
export function quantisedEnd(): u32 { return <u32>top; }

function node(ref: u32): u32 {
  const c: usize = ref;
  top = (top + 63) & ~63;
  const q = top; top += Q_BYTES;
  for (let a: usize = 0; a < 3; a++) {
    let lo: f32 = Infinity, hi: f32 = -Infinity;
    for (let i: usize = 0; i < 4; i++) if (load<u32>(c + (i << 2), NODE_REF)) { lo = min<f32>(lo, load<f32>(c + a * 16 + (i << 2))); hi = max<f32>(hi, load<f32>(c + a * 16 + (i << 2), 48)); }
    const step: f32 = (hi - lo) * <f32>(1.0001 / 253.0);
    store<f32>(q + a * 4, lo - step); store<f32>(q + a * 4, step, Q_STEP);
    for (let i: usize = 0; i < 4; i++) { // empty children: upper below lower
      const used = load<u32>(c + (i << 2), NODE_REF) != 0, flat = !(step > 0);
      store<u8>(q + Q_LOWER + a * 4 + i, used ? (flat ? 0 : <u8>Mathf.floor((load<f32>(c + a * 16 + (i << 2)) - lo) / step + <f32>0.99)) : 255);
      store<u8>(q + Q_UPPER + a * 4 + i, used ? (flat ? 2 : <u8>Mathf.ceil((load<f32>(c + a * 16 + (i << 2), 48) - lo) / step + <f32>1.01)) : 0);
    }
  }
  for (let i: usize = 0; i < 4; i++) {
    const r = load<u32>(c + (i << 2), NODE_REF), blocks = r & REF_MASK;
    store<u32>(q + (i << 2), 0, Q_REF);
    if (!blocks) continue;
    memory.copy(top, r & ~REF_MASK, <usize>blocks * BLOCK_BYTES);
    store<u32>(q + (i << 2), <u32>top | blocks, Q_REF); top += <usize>blocks * BLOCK_BYTES;
  }
  for (let i: usize = 0; i < 4; i++) { const r = load<u32>(c + (i << 2), NODE_REF); if (r && !(r & REF_MASK)) store<u32>(q + (i << 2), node(r), Q_REF); }
  return <u32>q;
}

// Slot: 0 origin, best | 16 direction, reference | 32 1/direction, hit address | 48 stack pointer, ray | 64 lanes | 112 stack
// @ts-ignore
@inline function start(s: usize, root: u32, ray: usize, hit: usize): void {
  v128.store(s, v128.load(ray)); v128.store(s, v128.load(ray, RAY_DIR), 16); v128.store(s, f32x4.div(f32x4.splat(1), v128.load(ray, RAY_DIR)), 32);
  store<f32>(s, load<f32>(ray, RAY_TMAX), 12); store<u32>(s, root, 28); store<u32>(s, <u32>hit, 44);
  store<u32>(s, <u32>s + 112, 48); store<u32>(s, <u32>ray, 52); store<u32>(s, REF_END, 112); store<f32>(s, -1, 116);
}
// @ts-ignore
@inline function steps(p: usize): v128 { return f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(p)))); }
// @ts-ignore
@inline function plane(quantised: bool, c: usize, axis: usize, upper: usize, o: v128, i: v128): v128 {
  if (!quantised) return f32x4.mul(f32x4.sub(v128.load(c + axis * 16 + upper), o), i);
  return f32x4.add(f32x4.mul(f32x4.sub(v128.load32_splat(c + axis * 4), o), i), f32x4.mul(steps(c + axis * 4 + Q_LOWER + upper), f32x4.mul(v128.load32_splat(c + axis * 4, Q_STEP), i)));
}
// @ts-ignore
@inline function run(quantised: bool, any: bool, root: u32, ray: usize, hit: usize, n: i32, slots: usize, inFlight: i32): void {
  const rayEnd = ray + <usize>n * RAY_BYTES, zero = f32x4.splat(0), refAt: usize = quantised ? Q_REF : NODE_REF, upper: i32 = quantised ? 12 : 48, hitBytes: usize = any ? 4 : HIT_BYTES;
  let end = slots, sum: u32 = 0;
  for (let k: i32 = 0; k < inFlight && ray < rayEnd; k++) { start(end, root, ray, hit); if (!any) { store<u32>(hit, NONE, HIT_PRIM); store<u32>(hit, NONE, HIT_INST); } ray += RAY_BYTES; hit += hitBytes; end += SLOT_BYTES; }
  while (end > slots) {
    for (let s = slots; s < end; s += SLOT_BYTES) { const ref = load<u32>(s, 28), p: usize = ref & ~REF_MASK; sum ^= load<u32>(p); if (ref & REF_MASK) sum ^= load<u32>(p, 64) ^ load<u32>(p, 96); else if (!quantised) sum ^= load<u32>(p, 64); }
    let s = slots;
    while (s < end) {
      let ref = load<u32>(s, 28), best = load<f32>(s, 12), sp: usize = load<u32>(s, 48), found: i32 = 0;
      if (!(ref & REF_MASK)) {
        const ox = v128.load32_splat(s), oy = v128.load32_splat(s, 4), oz = v128.load32_splat(s, 8), ix = v128.load32_splat(s, 32), iy = v128.load32_splat(s, 36), iz = v128.load32_splat(s, 40), c: usize = ref;
        const nx: usize = load<i32>(s, 32) >> 31 & upper, ny: usize = load<i32>(s, 36) >> 31 & upper, nz: usize = load<i32>(s, 40) >> 31 & upper;
        const near = f32x4.mul(f32x4.pmax(f32x4.pmax(zero, plane(quantised, c, 0, nx, ox, ix)), f32x4.pmax(plane(quantised, c, 1, ny, oy, iy), plane(quantised, c, 2, nz, oz, iz))), f32x4.splat(LOWER));
        const far = f32x4.pmin(f32x4.pmin(f32x4.splat(best), plane(quantised, c, 0, upper - nx, ox, ix)), f32x4.pmin(plane(quantised, c, 1, upper - ny, oy, iy), plane(quantised, c, 2, upper - nz, oz, iz)));
        let m = i32x4.bitmask(f32x4.le(near, far));
        if (m) {
          const c0 = <u32>ctz(m) << 2; m &= m - 1;
          if (!m) { store<u32>(s, load<u32>(ref + c0 + <u32>refAt), 28); s += SLOT_BYTES; continue; }
          const refs = v128.load(c + refAt);
          v128.store(s, v128.shuffle<u32>(refs, near, 0, 4, 1, 5), 64); v128.store(s, v128.shuffle<u32>(refs, near, 2, 6, 3, 7), 80);
          let least = load<u64>(s + (c0 << 1), 64);
          if (any) { while (m) { const k = load<u64>(s + (ctz(m) << 3), 64); m &= m - 1; sp += 8; store<u64>(sp, k); } }
          else { // the nearest is next, the others wait in order
            let a = load<u64>(s + (ctz(m) << 3), 64), x = least < a ? least : a, y = least < a ? a : least; m &= m - 1;
            if (!m) { store<u64>(sp, y, 8); sp += 8; least = x; }
            else {
              let k = load<u64>(s + (ctz(m) << 3), 64); m &= m - 1;
              a = x < k ? x : k; let b = x < k ? k : x; x = b < y ? b : y; y = b < y ? y : b;
              if (!m) { store<u64>(sp, y, 8); store<u64>(sp, x, 16); sp += 16; }
              else {
                k = load<u64>(s + (ctz(m) << 3), 64);
                b = a < k ? k : a; a = a < k ? a : k; k = x < b ? b : x; x = x < b ? x : b; b = y < k ? k : y; y = y < k ? y : k;
                store<u64>(sp, b, 8); store<u64>(sp, y, 16); store<u64>(sp, x, 24); sp += 24;
              }
              least = a;
            }
          }
          store<u32>(s, <u32>sp, 48); store<u32>(s, <u32>least, 28); s += SLOT_BYTES; continue;
        }
      } else if (any) found = blocksAny(ref, v128.load32_splat(s), v128.load32_splat(s, 4), v128.load32_splat(s, 8), v128.load32_splat(s, 16), v128.load32_splat(s, 20), v128.load32_splat(s, 24), v128.load32_splat(load<u32>(s, 52), RAY_TMIN), f32x4.splat(best), NONE, load<u32>(s, 52), s + 64);
      else { best = blocksClosest(ref, v128.load32_splat(s), v128.load32_splat(s, 4), v128.load32_splat(s, 8), v128.load32_splat(s, 16), v128.load32_splat(s, 20), v128.load32_splat(s, 24), v128.load32_splat(load<u32>(s, 52), RAY_TMIN), best, NONE, load<u32>(s, 44), load<u32>(s, 52), s + 64); store<f32>(s, best, 12); }
      if (!any) while (load<f32>(sp, 4) > best) sp -= 8;
      ref = found ? REF_END : load<u32>(sp);
      if (ref != REF_END) { store<u32>(s, ref, 28); store<u32>(s, <u32>sp - 8, 48); s += SLOT_BYTES; continue; }
      if (any) store<i32>(<usize>load<u32>(s, 44), found); else store<f32>(<usize>load<u32>(s, 44), best);
      if (ray < rayEnd) { start(s, root, ray, hit); if (!any) { store<u32>(hit, NONE, HIT_PRIM); store<u32>(hit, NONE, HIT_INST); } ray += RAY_BYTES; hit += hitBytes; s += SLOT_BYTES; }
      else { end -= SLOT_BYTES; if (s < end) { memory.copy(s, end, SLOT_BYTES); store<u32>(s, load<u32>(end, 48) - <u32>end + <u32>s, 48); } }
    }
  }
  store<u32>(slots, sum);
}
export function closestFull(root: u32, ray: usize, hit: usize, n: i32, slots: usize, inFlight: i32): void { run(false, false, root, ray, hit, n, slots, inFlight); }
export function closestQuantised(root: u32, ray: usize, hit: usize, n: i32, slots: usize, inFlight: i32): void { run(true, false, root, ray, hit, n, slots, inFlight); }
export function anyFull(root: u32, ray: usize, hit: usize, n: i32, slots: usize, inFlight: i32): void { run(false, true, root, ray, hit, n, slots, inFlight); }
export function anyQuantised(root: u32, ray: usize, hit: usize, n: i32, slots: usize, inFlight: i32): void { run(true, true, root, ray, hit, n, slots, inFlight); }
