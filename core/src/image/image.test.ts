import { unzlibSync } from 'fflate';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  type Grade,
  encodeSrgb,
  fromHalf,
  gradingOf,
  NEUTRAL_GRADE,
  rollOff,
  toDisplay,
  toHalf,
  writeExr,
} from './index.ts';

describe('half floats', () => {
  it('every half survives', () => {
    for (let h = 0; h < 0x7c00; h++) expect(toHalf(fromHalf(h))).toBe(h);
  });
  it('are within half a step of what was given', () => {
    fc.assert(
      fc.property(fc.double({ min: 1e-4, max: 65000, noNaN: true }), (x) => {
        expect(Math.abs(fromHalf(toHalf(x)) - x) / x).toBeLessThan(1 / 2048 + 1e-6);
      }),
    );
  });
  it('are the nearest there is, of two the even one, down to the least', () => {
    const float = new Float32Array(1);
    const bits = new Uint32Array(float.buffer);
    const off = (h: number, x: number) => Math.abs(fromHalf(h) - x);
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 0x477fe000 }), fc.boolean(), fc.boolean(), (size, isNegative, isMiddle) => {
        // the last bits that a half drops, or exactly their middle
        bits[0] = (isMiddle ? ((size & ~0x1fff) | 0x1000) >>> 0 : size) | (isNegative ? 0x80000000 : 0);
        const x = float[0]!;
        if (Math.abs(x) > 65504) return;
        const half = toHalf(x);
        for (const other of [half - 1, half + 1].filter((h) => (h & 0x7fff) <= 0x7bff && h >= 0)) {
          if ((other ^ half) & 0x8000) continue;
          expect(off(half, x)).toBeLessThanOrEqual(off(other, x));
          if (off(half, x) === off(other, x)) expect(half & 1).toBe(0);
        }
      }),
      { numRuns: 3000 },
    );
  });
  it('too large, infinite and not-a-number become readable values', () => {
    expect([1e9, Infinity, -Infinity, NaN].map((x) => fromHalf(toHalf(x)))).toEqual([65504, 65504, -65504, 0]);
  });
});

describe('OpenEXR', () => {
  /**
   * Undoes the file far enough to read its first block back; an independent reader checks whole files in the
   * integration tests.
   */
  it('holds the values that were given', () => {
    const width = 5;
    const height = 3;
    const data = Float32Array.from({ length: 15 }, (_, i) => i / 4);
    const bytes = writeExr({
      width,
      height,
      channels: [{ name: 'Y', type: 'float', data }],
      metadata: { note: 'stall' },
    });
    const view = new DataView(bytes.buffer);
    expect(view.getUint32(0, true)).toBe(20000630);
    const text = new TextDecoder('latin1').decode(bytes);
    const end = text.indexOf('note') + 'note\0string\0'.length + 4 + 'stall'.length + 1;
    const chunk = Number(view.getBigUint64(end, true));
    const size = view.getUint32(chunk + 4, true);
    const packed = bytes.subarray(chunk + 8, chunk + 8 + size);
    const raw = size < width * height * 4 ? unzlibSync(packed) : null;
    const flat = new Uint8Array(width * height * 4);
    if (raw) {
      for (let i = 1; i < raw.length; i++) raw[i] = (raw[i - 1]! + raw[i]! - 128) & 255;
      const half = (raw.length + 1) >> 1;
      for (let i = 0; i < raw.length; i++) flat[i] = raw[(i & 1 ? half : 0) + (i >> 1)]!;
    } else flat.set(packed);
    expect(new Float32Array(flat.buffer)).toEqual(data);
  });
  it('refuses channels of the wrong size', () => {
    expect(() =>
      writeExr({ width: 2, height: 2, channels: [{ name: 'R', type: 'half', data: new Float32Array(3) }] }),
    ).toThrow(/R has 3 values/);
  });
});

const linear = (c: number): number => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4);
/** One pixel through a grade, as linear light of the display. */
const gradePixel = (r: number, g: number, b: number, grade: Grade): number[] => {
  const out = [0, 0, 0];
  gradingOf(grade)([r, g, b], 0, out);
  return out.map(linear);
};

describe('the grade', () => {
  it('neutral, without rolloff, is the sRGB curve', () => {
    const [r] = gradePixel(0.5, 0.5, 0.5, { ...NEUTRAL_GRADE, rolloff: 0 });
    expect(r).toBeCloseTo(0.5, 6);
    expect([...toDisplay(new Float32Array([0.5, 0.5, 0.5, 1]), { ...NEUTRAL_GRADE, rolloff: 0 })]).toEqual([
      188, 188, 188,
    ]);
    expect(encodeSrgb(0.0031308)).toBeCloseTo(0.04045, 4);
  });
  it('a stop doubles light; contrast turns about middle grey; no saturation is grey', () => {
    const flat = { ...NEUTRAL_GRADE, rolloff: 0 };
    expect(gradePixel(0.2, 0.1, 0.05, { ...flat, exposureEv: 1 })[0]).toBeCloseTo(0.4, 6);
    expect(gradePixel(0.18, 0.18, 0.18, { ...flat, contrast: 2 })[0]).toBeCloseTo(0.18, 6);
    const grey = gradePixel(0.6, 0.2, 0.1, { ...flat, saturation: 0 });
    expect(grey[0]).toBeCloseTo(grey[2]!, 6);
  });
  it('rolloff rises without a break, stays below 1 and leaves what lies under its knee alone', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 50, noNaN: true }),
        fc.double({ min: 0, max: 50, noNaN: true }),
        fc.double({ min: 0.05, max: 1, noNaN: true }),
        (a, b, k) => {
          const [x, y] = [Math.min(a, b), Math.max(a, b)];
          expect(rollOff(x, k)).toBeLessThanOrEqual(rollOff(y, k));
          expect(rollOff(y, k)).toBeLessThanOrEqual(1);
          if (x <= 1 - 0.7 * k) expect(rollOff(x, k)).toBe(x);
        },
      ),
    );
  });
});
