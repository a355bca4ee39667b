// Each lobe and mixture by itself: energy, reciprocity, densities.
import { describe, expect, it } from 'vitest';
import type { EngineMaterial } from '../host/index.ts';
import { type Lobes, direction, lobesOf } from './lobes.ts';

const white = { baseColor: [1, 1, 1, 1], specular: 1, ior: 1.5 } as const;
const ROUGH = [0, 0.15, 0.4, 0.7, 1];
const COSINES = [0.98, 0.7, 0.35, 0.12];
const numbers = (seed: number) => () => {
  seed = (seed + 0x6d2b79f5) | 0;
  let t = Math.imul(seed ^ (seed >>> 15), seed | 1);
  t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
  return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
}; // a plain linear congruence is too even in four dimensions

/**
 * Share of light that leaves, in each channel, for light from i: the mean of weights over an even grid of random
 * numbers.
 */
function leaves(l: Lobes, n = 200): [number, number, number] {
  const sum: [number, number, number] = [0, 0, 0];
  const random = numbers(7);
  for (let a = 0; a < n; a++)
    for (let b = 0; b < n; b++) {
      const s = l.scatter((a + random()) / n, (b + random()) / n, random(), random());
      if (s) for (let c = 0; c < 3; c++) sum[c]! += s.weight[c]! / (n * n);
    }
  return sum;
}
const families: readonly (readonly [string, (roughness: number) => Partial<EngineMaterial>])[] = [
  ['matte under a clear surface', (roughness) => ({ ...white, roughness })],
  ['metal', (roughness) => ({ ...white, metallic: 1, roughness })],
  ['half metal', (roughness) => ({ ...white, metallic: 0.5, roughness })],
  ['stretched metal', (roughness) => ({ ...white, metallic: 1, roughness, anisotropy: 0.7 })],
  ['coated matte', (roughness) => ({ ...white, roughness: 0.9, coat: 1, coatRoughness: roughness })],
  ['coated metal', (roughness) => ({ ...white, metallic: 1, roughness, coat: 1, coatRoughness: 0.1 })],
  ['metal under a rough coat', (roughness) => ({ ...white, metallic: 1, roughness, coat: 1, coatRoughness: 0.6 })],
  ['metal half coated', (roughness) => ({ ...white, metallic: 1, roughness, coat: 0.5, coatRoughness: 0.1 })],
  ['metal with sheen', (roughness) => ({ ...white, metallic: 1, roughness, sheen: [1, 1, 1], sheenRoughness: 0.5 })],
  ['coated glass', (roughness) => ({ ...white, transmission: 1, solid: true, roughness, coat: 1, coatRoughness: 0.1 })],
  [
    'cloth with sheen',
    (roughness) => ({
      ...white,
      specular: 0,
      roughness: 1,
      sheen: [1, 1, 1],
      sheenRoughness: Math.max(0.2, roughness),
    }),
  ],
  ['thin glass', (roughness) => ({ ...white, transmission: 1, roughness })],
  ['solid glass', (roughness) => ({ ...white, transmission: 1, solid: true, roughness })],
  ['half glass', (roughness) => ({ ...white, transmission: 0.5, solid: true, roughness })],
];

/**
 * Light that leaves a white material at several angles of arrival: all of it within 1 % and the noise of 40,000
 * samples; and its mean weighted by the cosine.
 */
function check(l: Lobes, tolerance = 0.0125, ofMean = 0.01): void {
  let sum = 0;
  let weights = 0;
  for (const cos of COSINES)
    for (const phi of [0.3, 1.4]) {
      l.from(direction(cos, phi));
      const [r, g, b] = leaves(l);
      expect(Math.abs(g - (r + b) / 2), `cos ${cos}`).toBeLessThan(0.002);
      expect(Math.abs(g - 1), `cos ${cos}: ${g}`).toBeLessThan(tolerance);
      sum += g * cos;
      weights += cos;
    }
  expect(Math.abs(sum / weights - 1)).toBeLessThan(ofMean);
}
describe.each(families)('white %s', (name, material) => {
  // what crosses coated glass is weakened by the lesser of what the coat lets through both ways, which may lose a
  // little
  it.each(ROUGH)('keeps its light at roughness %f, and gains none', async (roughness) =>
    check(await lobesOf(material(roughness)), name === 'coated glass' ? 0.02 : undefined),
  );
});
describe('from inside', () => {
  it.each(ROUGH)('solid glass of roughness %f keeps its light', async (roughness) =>
    check(await lobesOf({ ...white, transmission: 1, solid: true, roughness }, true)),
  );
});

it('a film of any thickness on a white metal returns everything, on a dark base never more than all', async () => {
  for (const nm of [0, 120, 380, 800]) {
    const metal = await lobesOf({
      ...white,
      metallic: 1,
      roughness: 0.3,
      iridescence: 1,
      iridescenceIor: 1.4,
      iridescenceNm: [nm, nm],
    });
    const glassy = await lobesOf({
      ...white,
      roughness: 0.3,
      iridescence: 1,
      iridescenceIor: 1.4,
      iridescenceNm: [nm, nm],
    });
    for (const cos of COSINES) {
      metal.from(direction(cos, 0.2));
      for (const x of leaves(metal)) {
        expect(x).toBeGreaterThan(0.97);
        expect(x).toBeLessThan(1.015);
      }
      glassy.from(direction(cos, 0.2));
      for (const x of leaves(glassy)) expect(x).toBeLessThan(1.03);
    }
  }
});

const mixtures: readonly (readonly [string, Partial<EngineMaterial>])[] = [
  ['matte', { ...white, specular: 0, roughness: 1 }],
  ['clear over colour', { ...white, baseColor: [0.8, 0.3, 0.1, 1], roughness: 0.35 }],
  ['gold', { ...white, baseColor: [1, 0.8, 0.3, 1], metallic: 1, roughness: 0.5 }],
  ['brushed', { ...white, metallic: 1, roughness: 0.4, anisotropy: 0.8, anisotropyTurnRad: 0.6 }],
  ['lacquer', { ...white, baseColor: [0.5, 0.02, 0.02, 1], roughness: 0.6, coat: 1, coatRoughness: 0.2 }],
  ['velvet', { ...white, baseColor: [0.1, 0.02, 0.2, 1], roughness: 0.9, sheen: [0.8, 0.5, 1], sheenRoughness: 0.4 }],
  [
    'coated velvet',
    {
      ...white,
      baseColor: [0.1, 0.02, 0.2, 1],
      roughness: 0.9,
      sheen: [0.8, 0.5, 1],
      sheenRoughness: 0.4,
      coat: 0.6,
      coatRoughness: 0.3,
    },
  ],
  [
    'film',
    {
      ...white,
      baseColor: [0.2, 0.2, 0.2, 1],
      roughness: 0.3,
      iridescence: 1,
      iridescenceIor: 1.4,
      iridescenceNm: [350, 350],
    },
  ],
  ['frosted thin glass', { ...white, transmission: 1, roughness: 0.6 }],
  ['frosted solid glass', { ...white, transmission: 0.7, solid: true, roughness: 0.5 }],
];

/** Draws so many directions, and counts where they go and where they were to go. @returns χ² and what it may be */
function drawn(l: Lobes): { readonly chi2: number; readonly bins: number; readonly sum: number } {
  const random = numbers(11);
  const RINGS = 10;
  const SECTORS = 8;
  const N = 40_000;
  const seen = new Float64Array(RINGS * SECTORS);
  const expected = new Float64Array(RINGS * SECTORS);
  const FINE = 24;
  let lost = 0;
  const bin = (o: readonly number[]) =>
    Math.min(RINGS - 1, Math.floor(((o[2]! + 1) / 2) * RINGS)) * SECTORS +
    (Math.floor(((Math.atan2(o[1]!, o[0]!) / (2 * Math.PI) + 1) % 1) * SECTORS) % SECTORS);
  for (let k = 0; k < N; k++) {
    const s = l.scatter(random(), random(), random(), random());
    if (s) seen[bin(s.out)]!++;
    else lost++;
  }
  for (let r = 0; r < RINGS; r++)
    for (let s = 0; s < SECTORS; s++)
      for (let a = 0; a < FINE; a++)
        for (let b = 0; b < FINE; b++) {
          const z = ((r + (a + 0.5) / FINE) / RINGS) * 2 - 1;
          const phi = ((s + (b + 0.5) / FINE) / SECTORS) * 2 * Math.PI;
          expected[r * SECTORS + s]! +=
            ((l.f(direction(z, phi)).pdf * 4 * Math.PI) / (RINGS * SECTORS * FINE * FINE)) * N;
        }
  const total = expected.reduce((a, b) => a + b, 0);
  let chi2 = 0;
  let bins = 0;
  for (let k = 0; k < seen.length; k++)
    if (expected[k]! > 20) {
      chi2 += (seen[k]! - expected[k]!) ** 2 / (expected[k]! + (0.01 * expected[k]!) ** 2);
      bins++;
    } // 1 % for the midpoint rule
  return { chi2, bins, sum: (total + lost) / N };
}
/** Directions that are drawn are weighed by value over density. */
function checkWeights(l: Lobes): void {
  const random = numbers(5);
  for (let k = 0; k < 50; k++) {
    const s = l.scatter(random(), random(), random(), random());
    if (!s || !(s.pdf > 0)) continue;
    const f = l.f(s.out);
    expect(f.pdf / s.pdf).toBeCloseTo(1, 2);
    for (let c = 0; c < 3; c++)
      expect(Math.abs(f.value[c]! / s.pdf - s.weight[c]!)).toBeLessThan(0.01 * Math.max(1, s.weight[c]!));
  }
}

describe.each(mixtures)('%s', (name, material) => {
  it('reflects from one direction to another as much as back', async () => {
    const l = await lobesOf(material);
    const random = numbers(3);
    for (let k = 0; k < 40; k++) {
      const i = direction(0.1 + 0.88 * random(), random() * 6.28);
      const o = direction(0.1 + 0.88 * random(), random() * 6.28);
      l.from(i);
      const there = l.f(o).value;
      l.from(o);
      const back = l.f(i).value;
      // iridescence weakens what is below it by what the viewing direction reflects, as its extension says; the rest is
      // reciprocal
      if (name !== 'film') for (let c = 0; c < 3; c++) expect(there[c]! / o[2] / (back[c]! / i[2])).toBeCloseTo(1, 2);
    }
  });

  it('draws directions as its density says (χ², and the density sums to one)', async () => {
    const l = await lobesOf(material);
    l.from(direction(0.6, 0.9));
    const { chi2, bins, sum } = drawn(l);
    expect(sum).toBeCloseTo(1, 1.5);
    expect(chi2).toBeLessThan(bins + 5 * Math.sqrt(2 * bins));
  });

  it('weighs a drawn direction by value over density', async () => {
    const l = await lobesOf(material);
    l.from(direction(0.5, 0.1));
    checkWeights(l);
  });
});

describe.each(mixtures)('%s whose normals a texture bends', (_, material) => {
  const bent = () => lobesOf(material, false, 50);
  it('draws directions as its density says, none of them into what is opaque', async () => {
    const l = await bent();
    for (const [cos, phi] of [
      [0.6, 0.1],
      [0.6, 1.5],
      [0.95, 3],
    ] as const) {
      l.from(direction(cos, phi));
      const { chi2, bins, sum } = drawn(l);
      expect(sum).toBeCloseTo(1, 1.5);
      expect(chi2).toBeLessThan(bins + 5 * Math.sqrt(2 * bins));
      if (!material.transmission) expect(l.f(direction(-0.2, phi)).pdf).toBe(0);
    }
  });
  it('weighs a drawn direction by value over density', async () => {
    const l = await bent();
    l.from(direction(0.5, 3));
    checkWeights(l);
  });
});
describe.each(families)('white %s whose normals a texture bends', (name, material) => {
  // a coat whose own normals are not bent lets out less of what leaves the base at a slant, and somewhat more elsewhere
  const [most, ofMean] = name.includes('coat') ? [0.2, 0.15] : [0.02, 0.01];
  it.each([0.15, 0.6])('keeps its light at roughness %f, and gains none', async (roughness) =>
    check(await lobesOf(material(roughness), false, 40), most, ofMean),
  );
});

it('glass bends light by Snell’s law and reflects by Fresnel’s at known angles', async () => {
  const l = await lobesOf({ ...white, transmission: 1, solid: true, roughness: 0 });
  const random = numbers(1);
  for (const [degrees, reflectance] of [
    [0, 0.04],
    [30, 0.0415],
    [60, 0.0892],
    [80, 0.3878],
  ] as const) {
    // n = 1.5, unpolarised
    const a = (degrees * Math.PI) / 180;
    l.from([Math.sin(a), 0, Math.cos(a)]);
    let reflected = 0;
    let bent = 0;
    let n = 0;
    for (let k = 0; k < 8000; k++) {
      const s = l.scatter(random(), random(), (k + 0.5) / 8000, random());
      if (!s) continue;
      n++;
      if (s.kind === 2) reflected++;
      else bent = Math.hypot(s.out[0], s.out[1]);
    }
    expect(reflected / n).toBeCloseTo(reflectance, 2);
    expect(bent).toBeCloseTo(Math.sin(a) / 1.5, 2);
  }
});
