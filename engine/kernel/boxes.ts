// One ray against the four boxes of a node, and the stack of those that it enters. Nothing here branches on which boxes
// are entered: a processor guesses such branches wrongly about once a node, and then waits for the whole test. Children
// go onto the stack in order by a sorting network of four lanes, all four of them, and the top of the stack moves by as
// many as are entered (one branch a child made nearest hits take 1.07 times as long, any hit 1.2 times).
//
// A key is the entry distance's bits with the child's place × 4 in the low four; distances are ≥ 0, so keys sort as
// integers. Negative: not entered.
//
// Rounding. Entry distances are lowered by a hundred-thousandth, far more than the slab test's rounding (5 ulp), what a
// place in the low bits may add (15) and what two triangles that share an edge may differ by at the edge: with 10 ulp
// in all, one camera ray in a million found the farther of the two, depending on the tree. A ray's reach is finite (at
// most f32.MAX_VALUE), so that a node's empty places, whose boxes lie at Infinity, are not entered.
import * as NODE from './layout/node';

export const LOWER: f32 = 0.99999;
/** Key of what is never passed by. */
export const FIRST: i32 = i32.MIN_VALUE;

// 0 LOWER | 16 mask of the bits of distance | 32 places | 48 mask of a place in a byte | 64 bytes of a word | 80 first
// byte of each word, four times
const CONSTANTS: usize = memory.data<u32>(
  [
    0x3f7fff58, 0x3f7fff58, 0x3f7fff58, 0x3f7fff58, 0xfffffff0, 0xfffffff0, 0xfffffff0, 0xfffffff0, 0, 4, 8, 12,
    0x0c0c0c0c, 0x0c0c0c0c, 0x0c0c0c0c, 0x0c0c0c0c, 0x03020100, 0x03020100, 0x03020100, 0x03020100, 0x00000000,
    0x04040404, 0x08080808, 0x0c0c0c0c,
  ],
  16,
);
/** For each set of children, which bytes bring its words together at the front, the last child first. */
const TOGETHER: usize = memory.data<u32>(
  [
    -1, -1, -1, -1, 0x03020100, -1, -1, -1, 0x07060504, -1, -1, -1, 0x07060504, 0x03020100, -1, -1, 0x0b0a0908, -1, -1,
    -1, 0x0b0a0908, 0x03020100, -1, -1, 0x0b0a0908, 0x07060504, -1, -1, 0x0b0a0908, 0x07060504, 0x03020100, -1,
    0x0f0e0d0c, -1, -1, -1, 0x0f0e0d0c, 0x03020100, -1, -1, 0x0f0e0d0c, 0x07060504, -1, -1, 0x0f0e0d0c, 0x07060504,
    0x03020100, -1, 0x0f0e0d0c, 0x0b0a0908, -1, -1, 0x0f0e0d0c, 0x0b0a0908, 0x03020100, -1, 0x0f0e0d0c, 0x0b0a0908,
    0x07060504, -1, 0x0f0e0d0c, 0x0b0a0908, 0x07060504, 0x03020100,
  ],
  16,
);

/** 1/direction for slabs(): +0 for −0, so that Infinity has one sign. */
// @ts-ignore
@inline export function inverse(d: v128): v128 {
  return f32x4.div(f32x4.splat(1), f32x4.add(d, f32x4.splat(0)));
}

/**
 * Keys of entry distances, negative where the distance is beyond far; of use for their signs alone where not ordered.
 */
// @ts-ignore
@inline export function keys(ordered: bool, near: v128, far: v128): v128 {
  near = f32x4.mul(near, v128.load(CONSTANTS));
  const out = f32x4.gt(near, far);
  return ordered ? v128.or(v128.or(v128.and(near, v128.load(CONSTANTS, 16)), v128.load(CONSTANTS, 32)), out) : out;
}
/**
 * Keys of the children of node c that a ray of origin o and inverse direction i (each in all lanes) enters within best.
 */
// @ts-ignore
@inline export function slabs(
  ordered: bool,
  c: usize,
  ox: v128,
  oy: v128,
  oz: v128,
  ix: v128,
  iy: v128,
  iz: v128,
  best: v128,
): v128 {
  const ax = f32x4.mul(f32x4.sub(v128.load(c), ox), ix);
  const ay = f32x4.mul(f32x4.sub(v128.load(c, 16), oy), iy);
  const az = f32x4.mul(f32x4.sub(v128.load(c, 32), oz), iz);
  const bx = f32x4.mul(f32x4.sub(v128.load(c, 48), ox), ix);
  const by = f32x4.mul(f32x4.sub(v128.load(c, 64), oy), iy);
  const bz = f32x4.mul(f32x4.sub(v128.load(c, 80), oz), iz);
  // pmin and pmax give the first unless the second is beyond it: in these orders 0 × Infinity, a NaN, bounds nothing,
  // whichever plane it comes from
  const near = f32x4.pmax(
    f32x4.pmax(f32x4.splat(0), f32x4.pmin(ax, bx)),
    f32x4.pmax(f32x4.pmin(ay, by), f32x4.pmin(az, bz)),
  );
  const far = f32x4.pmin(f32x4.pmin(best, f32x4.pmax(bx, ax)), f32x4.pmin(f32x4.pmax(by, ay), f32x4.pmax(bz, az)));
  return keys(ordered, near, far);
}
/** Four keys, greatest first. */
// @ts-ignore
@inline export function descending(k: v128): v128 {
  let b = v128.shuffle<u32>(k, k, 2, 3, 0, 1);
  k = v128.shuffle<u32>(i32x4.max_s(k, b), i32x4.min_s(k, b), 0, 1, 6, 7);
  b = v128.shuffle<u32>(k, k, 1, 0, 3, 2);
  k = v128.shuffle<u32>(i32x4.max_s(k, b), i32x4.min_s(k, b), 0, 5, 2, 7);
  b = v128.shuffle<u32>(k, k, 0, 2, 1, 3);
  return v128.shuffle<u32>(i32x4.max_s(k, b), i32x4.min_s(k, b), 0, 1, 6, 7);
}
/** The places that keys name, × 4. */
// @ts-ignore
@inline export function places(k: v128): v128 {
  return v128.and(k, i32x4.splat(12));
}
/**
 * Puts four words with their keys on a stack of 8-byte entries (word, key), the first lowest, and keeps those whose key
 * is ≥ 0. Returns the new top.
 */
// @ts-ignore
@inline export function push(sp: usize, words: v128, k: v128): usize {
  v128.store(sp, v128.shuffle<u32>(words, k, 0, 4, 1, 5), 8);
  v128.store(sp, v128.shuffle<u32>(words, k, 2, 6, 3, 7), 24);
  return sp + 32 - ((<usize>popcnt(i32x4.bitmask(k))) << 3);
}
/** Puts the references of node c's children on such a stack, the nearest on top. */
// @ts-ignore
@inline export function pushNearest(sp: usize, c: usize, k: v128): usize {
  k = descending(k);
  const bytes = v128.or(
    v128.and(i8x16.swizzle(k, v128.load(CONSTANTS, 80)), v128.load(CONSTANTS, 48)),
    v128.load(CONSTANTS, 64),
  );
  return push(sp, i8x16.swizzle(v128.load(c, NODE.REF), bytes), k);
}
/** Puts words whose key is ≥ 0 on a stack of 4-byte entries, the first on top. Returns the new top. */
// @ts-ignore
@inline export function pushAny(sp: usize, words: v128, k: v128): usize {
  const m = i32x4.bitmask(k) ^ 15;
  v128.store(sp, i8x16.swizzle(words, v128.load(TOGETHER + ((<usize>m) << 4))), 4);
  return sp + ((<usize>popcnt(m)) << 2);
}
