// IEEE 754 half precision, round to nearest even. Values beyond 65504 become 65504, so that no reader meets an
// infinity; NaN becomes 0.
const asFloat = new Float32Array(1);
const asBits = new Uint32Array(asFloat.buffer);

export function toHalf(x: number): number {
  if (Number.isNaN(x)) return 0;
  asFloat[0] = Math.max(-65504, Math.min(65504, x));
  const bits = asBits[0]!;
  const sign = (bits >>> 16) & 0x8000;
  const exponent = ((bits >>> 23) & 0xff) - 112;
  const mantissa = bits & 0x7fffff;
  if (exponent <= 0) {
    if (exponent < -10) return sign;
    const m = mantissa | 0x800000;
    const shift = 14 - exponent;
    const half = m >>> shift;
    const rest = m & ((1 << shift) - 1);
    const middle = 1 << (shift - 1);
    return sign | (half + (rest > middle || (rest === middle && half & 1) ? 1 : 0));
  }
  const half = (exponent << 10) | (mantissa >>> 13);
  const rest = mantissa & 0x1fff;
  return sign | (half + (rest > 0x1000 || (rest === 0x1000 && half & 1) ? 1 : 0));
}

export function fromHalf(h: number): number {
  const s = h & 0x8000 ? -1 : 1;
  const e = (h >>> 10) & 31;
  const m = h & 1023;
  if (e === 0) return s * m * 2 ** -24;
  if (e === 31) return m ? NaN : s * Infinity;
  return s * (1 + m / 1024) * 2 ** (e - 15);
}
