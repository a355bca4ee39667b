import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  PROFILE_COLUMNS,
  PROFILE_ROWS,
  PhotometryError,
  faultOfValue,
  parseProfile,
  profileValue,
  propertyOf,
  readIes,
} from './index.ts';

/** As makers write them; candela by horizontal angle, then vertical. */
const file = (vertical: readonly number[], horizontal: readonly number[], candela: readonly number[], tilt = 'NONE') =>
  [
    'IESNA:LM-63-2002',
    '[TEST] 1',
    `TILT=${tilt}`,
    `1 -1 1 ${vertical.length} ${horizontal.length} 1 2 0.1 0.1 0`,
    '1 1 30',
    vertical.join(' '),
    horizontal.join(' '),
    candela.join('\r\n'),
  ].join('\r\n');
const at = (shares: Float32Array, deg: number, aboutDeg = 0) => shares[(deg / 2) * PROFILE_COLUMNS + aboutDeg / 45]!;

describe('an IES file', () => {
  it('of one plane is the same all about, shares of the greatest, nothing beyond its angles', () => {
    const { name, shares } = readIes(file([0, 30, 60, 90], [0], [800, 400, 100, 0]), 'Downlight 30.IES');
    expect(name).toBe('Downlight 30');
    for (const about of [0, 45, 180, 315]) {
      expect(at(shares, 0, about)).toBe(1);
      expect(at(shares, 30, about)).toBeCloseTo(0.5, 6);
      expect(at(shares, 44, about)).toBeCloseTo(0.5 - (14 / 30) * 0.375, 6);
      expect(at(shares, 92, about)).toBe(0);
    }
  });
  it('of a quarter or a half is mirrored to the whole', () => {
    const quarter = readIes(file([0, 90], [0, 45, 90], [10, 0, 10, 4, 10, 10]), 'x').shares;
    expect([0, 45, 90, 135, 180, 225, 270, 315].map((a) => at(quarter, 90, a))).toEqual(
      [0, 0.4, 1, 0.4, 0, 0.4, 1, 0.4].map((x) => Math.fround(x)),
    );
    const half = readIes(file([0, 90], [0, 90, 180], [10, 2, 10, 4, 10, 8]), 'x').shares;
    expect(at(half, 90, 0)).toBeCloseTo(0.2, 6);
    expect(at(half, 90, 180)).toBeCloseTo(0.8, 6);
    expect(at(half, 90, 270)).toBeCloseTo(0.4, 6);
  });
  it('with a tilt of its own is read past it', () => {
    const tilted = file([0, 90], [0], [5, 0], 'INCLUDE').replace(
      'TILT=INCLUDE',
      'TILT=INCLUDE\r\n1\r\n2\r\n0 90\r\n1 1',
    );
    expect(at(readIes(tilted, 'x').shares, 0)).toBe(1);
  });
  it.each([
    ['no IES file', 'solid cube', /no line “TILT=”/],
    ['a tilt elsewhere', file([0, 90], [0], [1, 0], 'lamp.tlt'), /Save it with TILT=NONE/],
    ['another type of photometry', file([0, 90], [0], [1, 0]).replace(' 1 2 0.1', ' 2 2 0.1'), /type B/],
    ['too few numbers', file([0, 90], [0], [1]), /missing/],
    ['words among the numbers', file([0, 90], [0], [1]).concat(' dark'), /dark/],
    ['counts beyond reason', file([0, 90], [0], [1, 0]).replace('1 -1 1 2 1', '1 -1 1 2 99999'), /99999/],
    ['angles out of order', file([90, 0], [0], [1, 0]), /not in order/],
    ['no light', file([0, 90], [0], [0, 0]), /no light/],
  ])('with %s is refused in words', (_what, text, message) => {
    expect(() => readIes(text, 'x')).toThrow(PhotometryError);
    expect(() => readIes(text, 'x')).toThrow(message);
  });
  it('of more numbers than a function takes arguments is read', () => {
    const many = Array.from({ length: 721 }, (_, i) => i / 4);
    const about = Array.from({ length: 361 }, (_, i) => i);
    const candela = Array.from({ length: many.length * about.length }, (_, i) => (i === 9 ? 8 : 4));
    expect(at(readIes(file(many, about, candela), 'x').shares, 90, 90)).toBe(0.5);
  });
  it('law: whatever a file says, it is refused in words or read', () => {
    fc.assert(
      fc.property(fc.string(), fc.array(fc.double()), (words, numbers) => {
        try {
          const { shares } = readIes(`TILT=NONE\n${words} ${numbers.join(' ')}`, 'x');
          expect(shares.every((x) => x >= 0 && x <= 1)).toBe(true);
        } catch (e) {
          expect(e).toBeInstanceOf(PhotometryError);
        }
      }),
    );
  });

  it('is a value of a look, whole, and nothing else is one', () => {
    const shares = Float32Array.from({ length: PROFILE_ROWS * PROFILE_COLUMNS }, (_, i) => (i % 97) / 96);
    const value = profileValue({ name: 'Spot: 10°', shares });
    expect(faultOfValue(propertyOf('light.profile')!, value)).toBeUndefined();
    const again = parseProfile(value)!;
    expect(again.name).toBe('Spot: 10°');
    again.shares.forEach((x, i) => expect(Math.abs(x - shares[i]!)).toBeLessThan(0.005));
    for (const other of ['none', 'ies:', 'ies:AAAA:x', 'ies:~~~~:x', value.slice(0, 90), undefined])
      expect(parseProfile(other), String(other).slice(0, 20)).toBeUndefined();
  });
});
