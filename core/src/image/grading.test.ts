// The grade's laws: what is neutral changes nothing, what is monotonic stays so, nothing leaves the range of codes.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  type Grade,
  type Lut,
  NEUTRAL_GRADE,
  decodeSrgb,
  encodeSrgb,
  gradingOf,
  lookUp,
  lutValue,
  packLut,
  parseLut,
  planckXy,
  rollOff,
  toDisplay,
  unpackLut,
  whiteBalance,
} from './index.ts';

const codes = (g: Partial<Grade>, rgb: readonly [number, number, number], lut?: Lut): number[] => {
  const out = [0, 0, 0];
  gradingOf({ ...NEUTRAL_GRADE, ...g }, lut)(rgb, 0, out);
  return out;
};
const light = fc.double({ min: 0, max: 50, noNaN: true });
const rgb = fc.tuple(light, light, light);
const anyGrade = fc.record({
  exposureEv: fc.double({ min: -10, max: 10, noNaN: true }),
  whiteKelvin: fc.integer({ min: 1700, max: 25_000 }),
  whiteTint: fc.integer({ min: -100, max: 100 }),
  contrast: fc.double({ min: 0.1, max: 3, noNaN: true }),
  saturation: fc.double({ min: 0, max: 3, noNaN: true }),
  rolloff: fc.double({ min: 0, max: 1, noNaN: true }),
  slope: fc.tuple(...[0, 1, 2].map(() => fc.double({ min: 0, max: 4, noNaN: true }))) as never,
  offset: fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -1, max: 1, noNaN: true }))) as never,
  power: fc.tuple(...[0, 1, 2].map(() => fc.double({ min: 0.1, max: 4, noNaN: true }))) as never,
}) as fc.Arbitrary<Partial<Grade>>;
const table = (size: number, f: (r: number, g: number, b: number) => readonly number[]): Lut => {
  const data = new Float32Array(size ** 3 * 3);
  const k = (i: number) => i / (size - 1);
  for (let b = 0; b < size; b++)
    for (let g = 0; g < size; g++)
      for (let r = 0; r < size; r++) data.set(f(k(r), k(g), k(b)), ((b * size + g) * size + r) * 3);
  return { size, data };
};
const of = (lut: Lut) => ({ hash: 'a'.repeat(64), size: lut.size, name: 'evening.cube' });

describe('a grade', () => {
  it('gives codes from 0 to 1 whatever it is and whatever light it gets', () => {
    fc.assert(
      fc.property(anyGrade, rgb, (g, c) => {
        for (const x of codes(g, c)) {
          expect(x).toBeGreaterThanOrEqual(0);
          expect(x).toBeLessThanOrEqual(1);
        }
      }),
    );
  });
  it('never makes more light darker', () => {
    fc.assert(
      fc.property(anyGrade, light, fc.double({ min: 1, max: 4, noNaN: true }), (g, x, k) => {
        const grey = { ...g, saturation: 1, whiteKelvin: 6500, whiteTint: 0 };
        const a = codes(grey, [x, x, x]);
        const b = codes(grey, [x * k, x * k, x * k]);
        b.forEach((v, i) => expect(v).toBeGreaterThanOrEqual(a[i]! - 1e-9));
      }),
    );
  });
  it('of a stop more is one of twice the light', () => {
    fc.assert(
      fc.property(anyGrade, rgb, (g, c) => {
        const more = codes({ ...g, exposureEv: g.exposureEv! + 1 }, c);
        const twice = codes(g, [c[0] * 2, c[1] * 2, c[2] * 2]);
        more.forEach((v, i) => expect(v).toBeCloseTo(twice[i]!, 5));
      }),
    );
  });
  it('without saturation is grey, and of more than 1 keeps luminance', () => {
    fc.assert(
      fc.property(rgb, (c) => {
        const [r, g, b] = codes({ saturation: 0 }, c) as [number, number, number];
        expect(Math.max(r, g, b) - Math.min(r, g, b)).toBeLessThan(1e-9);
      }),
    );
    const y = (c: readonly number[]) => 0.2126 * c[0]! + 0.7152 * c[1]! + 0.0722 * c[2]!;
    const linear = (v: number) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
    const c = [0.2, 0.15, 0.1] as const;
    expect(y(codes({ saturation: 1.5, rolloff: 0 }, c).map(linear))).toBeCloseTo(y(c), 5);
  });
  it('of contrast alone leaves middle grey where it is', () => {
    for (const contrast of [0.5, 1, 2])
      expect(codes({ contrast, rolloff: 0 }, [0.18, 0.18, 0.18])[0]).toBeCloseTo(encodeSrgb(0.18), 6);
    expect(codes({ contrast: 2, rolloff: 0 }, [0.36, 0.36, 0.36])[0]).toBeCloseTo(encodeSrgb(0.72), 6);
  });
  it('of slope, offset and power does what the ASC CDL says', () => {
    const c = codes({ slope: [2, 1, 1], offset: [0, 0.1, -0.5], power: [1, 1, 2], rolloff: 0 }, [0.2, 0.2, 0.2]);
    expect(c[0]).toBeCloseTo(encodeSrgb(0.4), 6);
    expect(c[1]).toBeCloseTo(encodeSrgb(0.3), 6);
    expect(c[2]).toBe(0); // below nothing is nothing
  });
  it('takes negative film values, as a filter leaves them, for none', () => {
    expect(codes({}, [-1, -0.001, 0])).toEqual([0, 0, 0]);
  });
  it('is applied to every pixel, whatever covers it', () => {
    const film = new Float32Array([0.5, 0.5, 0.5, 1, 0, 0, 0, 0, 4, 0.1, 0.1, 0.5]);
    const bytes = toDisplay(film, NEUTRAL_GRADE);
    expect(bytes).toHaveLength(9);
    expect([...bytes.slice(0, 3)]).toEqual(Array(3).fill(Math.round(encodeSrgb(0.5) * 255)));
    expect([...bytes.slice(3, 6)]).toEqual([0, 0, 0]);
    expect(bytes[6]).toBeGreaterThan(bytes[7]!);
  });
  it('gives the bytes that its codes round to, of the brightest and the darkest, next to every step, and of no number', () => {
    // about each light at which a byte changes, a few of the nearest numbers on both sides
    const steps = Array.from({ length: 255 }, (_, byte) => decodeSrgb((byte + 0.5) / 255));
    const near = steps.flatMap((x) => [-3, -1, 0, 1, 3].map((ulps) => x * (1 + ulps * 2 ** -24)));
    const odd = [0, -1, 1e-40, 2 ** -16, 7.9999999, 8, 65_504, Infinity, NaN];
    const some = fc.array(fc.oneof(light, fc.constantFrom(...near, ...odd)), { minLength: 4, maxLength: 64 });
    fc.assert(
      fc.property(fc.oneof(anyGrade, fc.constant({}), fc.constant({ rolloff: 0 })), some, (g, values) => {
        const grade = { ...NEUTRAL_GRADE, ...g };
        const film = Float32Array.from([...near, ...odd, ...values]);
        const whole = film.subarray(0, film.length - (film.length % 4));
        const bytes = toDisplay(whole, grade);
        const graded = gradingOf(grade);
        const out = [0, 0, 0];
        for (let i = 0; i < whole.length / 4; i++) {
          graded(whole, i * 4, out);
          const rounded = Uint8Array.from(out, (code) => Math.round(code * 255));
          expect(bytes.subarray(i * 3, i * 3 + 3)).toEqual(rounded);
        }
      }),
    );
  });
});

describe('the rolloff', () => {
  it('is smooth, rising and below 1, and leaves what is under its knee', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.01, max: 1, noNaN: true }), light, (rolloff, x) => {
        const knee = 1 - 0.7 * rolloff;
        const y = rollOff(x, rolloff);
        if (x <= knee) expect(y).toBe(x);
        else {
          expect(y).toBeLessThanOrEqual(1);
          expect(y).toBeGreaterThanOrEqual(knee);
        }
        expect(rollOff(x + 1e-4, rolloff)).toBeGreaterThanOrEqual(y);
        // no step in value nor in slope at the knee
        expect(rollOff(knee + 1e-6, rolloff) - rollOff(knee, rolloff)).toBeLessThan(1.01e-6);
      }),
    );
  });
});

describe('white balance', () => {
  it('of daylight is nothing to do; of a lamp it makes the lamp white', () => {
    expect(whiteBalance(6500, 0)).toBeUndefined();
    for (const kelvin of [2000, 3200, 4500, 9000, 15_000]) {
      // the lamp's own colour, in linear Rec.709 of luminance 1
      const [x, y] = planckXy(kelvin);
      const X = x / y;
      const Z = (1 - x - y) / y;
      const lamp = [
        3.2409699 * X - 1.5373832 - 0.4986108 * Z,
        -0.9692436 * X + 1.8759675 + 0.0415551 * Z,
        0.0556301 * X - 0.203977 + 1.056972 * Z,
      ];
      const m = whiteBalance(kelvin, 0)!;
      const white = m.map((row) => row[0] * lamp[0]! + row[1] * lamp[1]! + row[2] * lamp[2]!);
      const daylight = planckXy(6500);
      const W = [daylight[0] / daylight[1], (1 - daylight[0] - daylight[1]) / daylight[1]] as const;
      const expected = [
        3.2409699 * W[0] - 1.5373832 - 0.4986108 * W[1],
        -0.9692436 * W[0] + 1.8759675 + 0.0415551 * W[1],
        0.0556301 * W[0] - 0.203977 + 1.056972 * W[1],
      ];
      white.forEach((v, i) => expect(v / white[1]!, `${kelvin} K`).toBeCloseTo(expected[i]! / expected[1]!, 2));
    }
  });
  it('runs from red to blue with the temperature', () => {
    const blueOverRed = [1700, 2500, 4000, 6500, 10_000, 25_000].map((k) => {
      const [x, y] = planckXy(k);
      return (1 - x - y) / x;
    });
    expect([...blueOverRed].sort((a, b) => a - b)).toEqual(blueOverRed);
  });
  it('towards green and magenta changes those, and hardly the rest', () => {
    const c = (tint: number) => codes({ whiteTint: tint, rolloff: 0 }, [0.3, 0.3, 0.3]);
    expect(c(50)[1]).toBeLessThan(c(0)[1]!); // greenish light comes out white, so white comes out magenta
    expect(c(-50)[1]).toBeGreaterThan(c(0)[1]!);
  });
});

describe('a LUT', () => {
  const same = table(5, (r, g, b) => [r, g, b]);
  const swapped = table(3, (r, g, b) => [b, r, g]);
  it('of what is changes nothing, between its entries too', () => {
    fc.assert(
      fc.property(rgb, (c) => {
        const plain = codes({}, c);
        codes({ lut: of(same) }, c, same).forEach((v, i) => expect(v).toBeCloseTo(plain[i]!, 6));
      }),
    );
  });
  it('that swaps channels swaps them, as far as its strength goes', () => {
    const c = [0.5, 0.2, 0.05] as const;
    const [r, g, b] = codes({}, c) as [number, number, number];
    expect(codes({ lut: of(swapped) }, c, swapped)).toEqual([b, r, g].map((x) => expect.closeTo(x, 6)));
    expect(codes({ lut: of(swapped), lutStrength: 0.5 }, c, swapped)[0]).toBeCloseTo((r + b) / 2, 6);
    expect(codes({ lut: of(swapped), lutStrength: 0 }, c)).toEqual([r, g, b]);
  });
  it('keeps greys grey where its own are', () => {
    const wild = table(4, (r, g, b) => (r === g && g === b ? [r * 0.8, r * 0.8, r * 0.8] : [r ** 2, 1 - g, b / 2]));
    fc.assert(
      fc.property(fc.double({ min: 0, max: 1, noNaN: true }), (x) => {
        const out = [0, 0, 0];
        lookUp(wild, x, x, x, out);
        expect(Math.max(...out) - Math.min(...out)).toBeLessThan(1e-6);
      }),
    );
  });
  it('outside its range is as at its edge', () => {
    const a = [0, 0, 0];
    const b = [0, 0, 0];
    lookUp(swapped, 1.7, -0.4, 0.5, a);
    lookUp(swapped, 1, 0, 0.5, b);
    expect(a).toEqual(b);
  });
  it('that is missing is said by its name, one that is damaged too', () => {
    expect(() => gradingOf({ ...NEUTRAL_GRADE, lut: of(same) })).toThrow(/“evening.cube” is missing/);
    expect(() => unpackLut(packLut(same).slice(4), of(same))).toThrow(/“evening.cube” is damaged/);
  });
  it('is the same after it was stored, and its value names it again, whatever it is called', () => {
    expect(unpackLut(packLut(same), of(same))).toEqual(same);
    fc.assert(
      fc.property(fc.string(), (name) => {
        const l = { ...of(same), name };
        expect(parseLut(lutValue(l))).toEqual(l);
      }),
    );
    for (const other of ['none', '', 'lut:', 'lut:abc:5:x', 7, null]) expect(parseLut(other)).toBeUndefined();
  });
});
