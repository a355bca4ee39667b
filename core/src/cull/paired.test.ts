import { describe, expect, it } from 'vitest';
import { pairedDifference } from './index.ts';

/** Numbers by chance that come again: mulberry32, and two of them to one that is normal (Box and Muller). */
function normals(seed: number): () => number {
  let s = seed;
  const uniform = () => {
    s = (s + 0x6d2b79f5) | 0;
    let t = Math.imul(s ^ (s >>> 15), 1 | s);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
  return () => Math.sqrt(-2 * Math.log(1 - uniform())) * Math.cos(2 * Math.PI * uniform());
}
const PIXELS = 40_000;
/**
 * Two pictures, each twice, with noise that they share in part. @param off by how much the second is brighter in every
 * tenth pixel
 */
function pictures(off: number, noise: number, seed: number) {
  const next = normals(seed);
  const twice = () => {
    const shared = Float32Array.from({ length: PIXELS }, () => 10 + noise * next());
    const other = shared.map((x, i) => x + (i % 10 ? 0 : off) + noise * 0.5 * next());
    return [shared, other] as const;
  };
  const [[a, x], [b, y]] = [twice(), twice()];
  return pairedDifference({ first: a, second: b }, { first: x, second: y });
}

describe('the difference of two pictures with the noise taken out', () => {
  it('is what they are off, however much stronger the noise is', () => {
    for (const [noise, seed] of [
      [0, 1],
      [0.5, 2],
      [2, 3],
    ] as const) {
      const { difference, chance } = pictures(3, noise, seed);
      expect(Math.abs(difference - 3 * Math.sqrt(0.1))).toBeLessThan(0.03 + noise * 0.02);
      expect(difference).toBeGreaterThan(chance);
    }
  });
  it('is told by nothing but chance where there is none', () => {
    let told = 0;
    for (let seed = 0; seed < 40; seed++) {
      const { difference, chance } = pictures(0, 2, seed);
      if (difference > chance) told++;
    }
    expect(told).toBeLessThan(5);
  });
  it('is of usual pixels: a few that are far too bright by chance count neither as noise nor as a difference', () => {
    const even = () => new Float32Array(PIXELS).fill(10);
    const [a, b, x, y] = [even(), even(), even(), even()];
    for (let i = 0; i < PIXELS; i += 200) [a[i], x[i]] = [1e6, 9e5];
    expect(pairedDifference({ first: a, second: b }, { first: x, second: y })).toEqual({
      difference: 0,
      chance: 0,
      noise: 0,
    });
  });
  it('comes with the noise of one of the times', () => {
    // without the noisiest ones a little less
    expect(pictures(3, 2, 7).noise).toBeGreaterThan(1.8);
    expect(pictures(3, 2, 7).noise).toBeLessThan(2.02);
    expect(pictures(0, 0, 7)).toEqual({ difference: 0, chance: 0, noise: 0 });
  });
});
