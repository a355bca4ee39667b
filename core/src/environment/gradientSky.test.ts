import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { generateEnvironment, gradientName, parseGradient, skyFromPlate } from './index.ts';

const color = fc.tuple(...[0, 1, 2].map(() => fc.double({ min: 0.02, max: 1, noNaN: true }))) as fc.Arbitrary<
  [number, number, number]
>;
const sky = fc.record({ zenith: color, horizon: color, ground: color });

/** What a map shows, as a picture of all directions of a half. */
function pictureOf(name: string, from: number, to: number) {
  const { width, height, data } = generateEnvironment(name as never, 64);
  const light: number[] = [];
  const up: number[] = [];
  for (let y = from; y < to; y++)
    for (let x = 0; x < width; x += 8) {
      light.push(...data.slice((y * width + x) * 3, (y * width + x) * 3 + 3));
      up.push(Math.cos((Math.PI * (y + 0.5)) / height));
    }
  return { light, up };
}

describe('a sky of three colours', () => {
  it('is called by them, and made of them', () => {
    fc.assert(
      fc.property(sky, (s) => {
        expect(parseGradient(gradientName(s))).toEqual(s);
      }),
    );
    expect(parseGradient('gradient 1 2 3')).toBeUndefined();
    expect(parseGradient('daylight 1 2 3')).toBeUndefined();
    const { data, width, height } = generateEnvironment(
      gradientName({ zenith: [1, 0, 0], horizon: [0, 1, 0], ground: [0, 0, 1] }) as never,
      64,
    );
    const at = (row: number) =>
      [...data.slice(row * width * 3, row * width * 3 + 3)].map((x) => Math.round(x * 10) / 10);
    expect(at(0)).toEqual([1, 0, 0]);
    expect(at(31)).toEqual([0.1, 0.9, 0]);
    expect(at(height - 1)).toEqual([0, 0, 1]);
  });

  it('is found again in a picture of it, but for how bright all of it is', () => {
    fc.assert(
      fc.property(sky, (s) => {
        const { light, up } = pictureOf(gradientName(s), 0, 64);
        const found = skyFromPlate(light, up)!;
        for (const of of ['zenith', 'horizon'] as const)
          for (let c = 0; c < 3; c++) expect(Math.abs(found[of][c]! * found.strength - s[of][c]!)).toBeLessThan(0.1);
        expect(Math.max(...found.zenith, ...found.horizon, ...found.ground)).toBeCloseTo(1, 9);
      }),
    );
  });

  it('is the mean of what is seen where no sky is, and none where all is black', () => {
    const { light, up } = pictureOf(
      gradientName({ zenith: [1, 1, 1], horizon: [0.5, 0.5, 0.5], ground: [0.2, 0.1, 0] }),
      44,
      64,
    );
    const found = skyFromPlate(light, up)!;
    expect(found.zenith).toEqual(found.ground);
    expect(found.strength).toBeCloseTo(0.2, 2);
    expect(skyFromPlate([0, 0, 0], [1])).toBeUndefined();
  });
});
