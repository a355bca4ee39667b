// IEEE 754 half precision, round to nearest even. Values beyond 65504 become 65504, so that no reader meets an
// infinity; NaN becomes 0.
const asFloat = new Float32Array(1);
const asBits = new Uint32Array(asFloat.buffer);

export function toHalf(x: number): number {
  asFloat[0] = x;
  return halfOfBits(asBits[0]!);
}

const LARGEST = 0x477fe000; // 65504
const INFINITE = 0x7f800000;
const LEAST_NORMAL = 0x38800000; // 2^-14
const LEAST = 0x33000000; // 2^-25: what is smaller is nearer to 0
/** By what the exponents of both differ, where a float has its own. */
const REBASED = 0x38000000;
/** Bits of the fraction that a half has no room for, and what rounds all above their middle up. */
const DROPPED = 13;
const BELOW_MIDDLE = 0xfff;

/** @param bits of a float of single precision */
export function halfOfBits(bits: number): number {
  const size = bits & 0x7fffffff;
  const sign = (bits >>> 16) & 0x8000;
  if (size >= LARGEST) return size > INFINITE ? 0 : sign | 0x7bff;
  if (size >= LEAST_NORMAL) return sign | ((size - REBASED + BELOW_MIDDLE + ((size >>> DROPPED) & 1)) >>> DROPPED);
  return size < LEAST ? sign : sign | subnormal(size);
}
function subnormal(size: number): number {
  const shift = 126 - (size >>> 23);
  const mantissa = (size & 0x7fffff) | 0x800000;
  const half = mantissa >>> shift;
  const rest = mantissa & ((1 << shift) - 1);
  const middle = 1 << (shift - 1);
  return half + (rest > middle || (rest === middle && half & 1) ? 1 : 0);
}

export function fromHalf(h: number): number {
  const s = h & 0x8000 ? -1 : 1;
  const e = (h >>> 10) & 31;
  const m = h & 1023;
  if (e === 0) return s * m * 2 ** -24;
  if (e === 31) return m ? NaN : s * Infinity;
  return s * (1 + m / 1024) * 2 ** (e - 15);
}

let values: Float32Array | undefined;
/** What each of the 65,536 codes means: pictures are read by it. */
export function halfValues(): Float32Array {
  values ??= Float32Array.from({ length: 2 ** 16 }, (_, code) => fromHalf(code));
  return values;
}
