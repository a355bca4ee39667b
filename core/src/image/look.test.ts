// White balance, the colour decision list and LUTs, against their definitions.
import { describe, expect, it } from 'vitest';
import { importLut } from '../import/importLut.ts';
import {
  type Grade,
  type Lut,
  NEUTRAL_GRADE,
  gradingOf,
  kelvinColor,
  lutValue,
  packLut,
  parseLut,
  planckXy,
  toDisplay,
  unpackLut,
  encodeSrgb,
} from './index.ts';

const flat: Grade = { ...NEUTRAL_GRADE, rolloff: 0 };
const codes = (rgb: readonly number[], g: Partial<Grade>, lut?: Lut) => {
  const out = [0, 0, 0];
  gradingOf({ ...flat, ...g }, lut)(rgb, 0, out);
  return out;
};
const close = (a: readonly number[], b: readonly number[], digits = 5) =>
  a.forEach((x, i) => expect(x).toBeCloseTo(b[i]!, digits));

describe('temperature', () => {
  it('follows the black body: warm below 6500 K, cold above, white at it, always as bright', () => {
    close(planckXy(2856), [0.4476, 0.4074], 2); // standard illuminant A
    close(kelvinColor(6500), [1, 1, 1]);
    const [r, g, b] = kelvinColor(2700);
    const cold = kelvinColor(12_000);
    expect(r > g && g > b).toBe(true);
    expect(cold[2] > cold[0]).toBe(true);
    for (const c of [kelvinColor(1700), kelvinColor(2700), cold])
      expect(0.2126 * c[0] + 0.7152 * c[1] + 0.0722 * c[2]).toBeCloseTo(1, 3);
  });
  it('balanced against makes light of that temperature grey, whatever it is', () => {
    for (const kelvin of [2500, 3200, 4500, 8000]) {
      const lit = kelvinColor(kelvin).map((x) => x * 0.3);
      const [r, g, b] = codes(lit, { whiteKelvin: kelvin }) as [number, number, number];
      expect(Math.abs(r - g)).toBeLessThan(0.01);
      expect(Math.abs(b - g)).toBeLessThan(0.01);
    }
    const green = codes([0.2, 0.3, 0.2], { whiteTint: 60 });
    const plain = codes([0.2, 0.3, 0.2], {});
    expect(green[1]! - green[0]!).toBeLessThan(plain[1]! - plain[0]!); // taken to be greenish light, so less green
  });
});

describe('the colour decision list', () => {
  it('is slope, then offset, then power, each for its channel', () => {
    close(
      codes([0.2, 0.4, 0.1], { slope: [2, 1, 1], offset: [0, 0.1, 0], power: [1, 2, 0.5] }),
      [0.4, 0.25, Math.sqrt(0.1)].map(encodeSrgb),
    );
    expect(codes([0.1, 0, 0], { offset: [-0.5, 0, 0] })[0]).toBe(0);
  });
});

const cube = (size: number, f: (r: number, g: number, b: number) => readonly number[]) =>
  `TITLE "stall"\n# evening\nLUT_3D_SIZE ${size}\n${Array.from({ length: size ** 3 }, (_, i) =>
    f((i % size) / (size - 1), (Math.floor(i / size) % size) / (size - 1), Math.floor(i / size ** 2) / (size - 1))
      .map((x) => x.toFixed(6))
      .join(' '),
  ).join('\n')}\n`;
describe('a LUT', () => {
  it('that changes nothing changes nothing; one that swaps channels swaps them; by its strength', () => {
    const same = importLut(
      cube(5, (r, g, b) => [r, g, b]),
      'same.cube',
    );
    const swap = importLut(
      cube(2, (r, g, b) => [b, g, r]),
      'swap.cube',
    );
    const use = { lut: { hash: 'a'.repeat(64), size: 2, name: 'x' } };
    for (const rgb of [
      [0.2, 0.4, 0.1],
      [0.9, 0.05, 0.6],
      [0, 1, 0.3],
    ]) {
      close(codes(rgb, use, same), codes(rgb, {}));
      close(codes(rgb, use, swap), [...codes(rgb, {})].reverse());
      close(
        codes(rgb, { ...use, lutStrength: 0.5 }, swap),
        codes(rgb, {}).map((x, i, all) => (x + all[2 - i]!) / 2),
      );
    }
  });
  it('keeps greys grey between its entries', () => {
    const lut = importLut(
      cube(4, (r, g, b) => [r ** 2, g ** 2, b ** 2]),
      'dark.cube',
    );
    const [r, g, b] = codes([0.13, 0.13, 0.13], { lut: { hash: 'a'.repeat(64), size: 4, name: 'x' } }, lut);
    expect(r).toBe(g);
    expect(b).toBe(g);
  });
  it('is kept whole, named by a value, and missed by name', () => {
    const lut = importLut(
      cube(3, (r, g, b) => [1 - r, g, b]),
      'x.cube',
    );
    const about = { hash: 'b'.repeat(64), size: 3, name: 'night: cold.cube' };
    expect(parseLut(lutValue(about))).toEqual(about);
    expect(unpackLut(packLut(lut), about)).toEqual(lut);
    expect(() => unpackLut(new Uint8Array(7), about)).toThrow(/“night: cold.cube” is damaged/);
    expect(() => toDisplay(new Float32Array(4), { ...flat, lut: about })).toThrow(/“night: cold.cube” is missing/);
  });
  it.each([
    ['LUT_1D_SIZE 4\n0 0 0', /one-dimensional/],
    ['LUT_3D_SIZE 2\n0 0 0\n', /1 rows instead of 8/],
    ['LUT_3D_SIZE 9000\n', /size of 9000 in line 1/],
    ['0 0 0\n', /does not say its LUT_3D_SIZE/],
    ['LUT_3D_SIZE 2\nnot a row\n', /damaged in line 2/],
    ['LUT_3D_SIZE 2\nDOMAIN_MAX 4 4 4\n', /DOMAIN_MAX of 4 4 4/],
    ['', /does not say/],
  ])('damaged is refused with the line: %j', (text, why) => {
    expect(() => importLut(text, 'x.cube')).toThrow(why);
  });
});
