import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type NumberRange, parsedNumber, stepped } from './numberSteps.ts';

const roughness: NumberRange = { min: 0, max: 1, step: 0.01 };
const strength: NumberRange = { min: 0, max: 1e6, step: 0.1, scale: 'log' };

describe('steps of a number', () => {
  it('add up without crumbs, and end at the ends', () => {
    expect(stepped(0.1, 20, roughness)).toBe(0.3);
    expect(stepped(0.5, -2.5, roughness)).toBe(0.475);
    expect(stepped(0.9, 500, roughness)).toBe(1);
    expect(stepped(0.9, -500, roughness)).toBe(0);
  });
  it('are shares of the value where its scale is logarithmic, and begin from nothing', () => {
    expect(stepped(40, 70, strength) / 40).toBeCloseTo(2, 1);
    expect(stepped(40_000, 70, strength) / 40_000).toBeCloseTo(2, 1);
    expect(stepped(0, 1, strength)).toBeGreaterThan(0);
    expect(stepped(0, -5, strength)).toBe(0);
  });
  it('of a drag that comes back give the old value back', () => {
    const number = fc.double({ min: 0, max: 1, noNaN: true });
    fc.assert(fc.property(number, (v) => stepped(v, 0, roughness) === v));
    fc.assert(fc.property(number, (v) => stepped(v, 0, strength) === v));
  });
  it('of whole numbers stay whole, however finely a hand drags', () => {
    const copies: NumberRange = { min: 1, max: 50, step: 1, decimals: 0 };
    fc.assert(
      fc.property(fc.double({ min: -40, max: 40, noNaN: true }), (n) => Number.isInteger(stepped(4, n, copies))),
    );
  });
  it('never leave the range, and go the way of the hand', () => {
    const range = fc.constantFrom(roughness, strength);
    fc.assert(
      fc.property(
        range,
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.integer({ min: -3000, max: 3000 }),
        (r, v, n) => {
          const next = stepped(v, n, r);
          expect(next).toBeGreaterThanOrEqual(r.min);
          expect(next).toBeLessThanOrEqual(r.max);
          if (n > 0) expect(next).toBeGreaterThanOrEqual(Number(v.toPrecision(4)) * 0.999);
          if (n < 0) expect(next).toBeLessThanOrEqual(v * 1.001);
        },
      ),
    );
  });
});

describe('a typed number', () => {
  it('is read with a comma, a unit, an exponent or a sign', () => {
    expect(['60', '0,5', ' 2.25 m', '−3', '1e3', '.5', '12 cd', '5 %'].map(parsedNumber)).toEqual([
      60, 0.5, 2.25, -3, 1000, 0.5, 12, 5,
    ]);
  });
  it('is none where it is a word, two numbers, or too large for a number', () => {
    expect(['bright', '1 2', '1.2.3', '', '1e999', '--4'].map(parsedNumber)).toEqual(Array(6).fill(undefined));
  });
});
