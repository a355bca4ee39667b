import { expect, it } from 'vitest';
import { decodeSrgb } from '../image/index.ts';
import { PANEL_GRADIENTS, gradientPixels } from './panelGradients.ts';

const SIDE = 64;
type Place = readonly [number, number];
const lightOf = (name: string) => {
  const pixels = gradientPixels(
    PANEL_GRADIENTS.find((g) => g.name === name)!,
    SIDE,
  );
  return (u: number, v: number) => {
    const at = (share: number) => Math.min(SIDE - 1, Math.floor(share * SIDE));
    return decodeSrgb(pixels[(at(v) * SIDE + at(u)) * 4]! / 255);
  };
};

it('is brightest where its name says, and falls as it says from there', () => {
  for (const [name, bright, dark] of [
    ['Bright top', [0.5, 0], [0.5, 1]],
    ['Bright bottom', [0.5, 1], [0.5, 0]],
    ['Bright left', [0, 0.5], [1, 0.5]],
    ['Bright right', [1, 0.5], [0, 0.5]],
  ] as readonly (readonly [string, Place, Place])[]) {
    const light = lightOf(name);
    expect(light(...bright), name).toBeGreaterThan(0.98);
    expect(light(...dark), name).toBeLessThan(0.02);
    expect(light(0.5, 0.5), name).toBeCloseTo(0.5, 1);
  }
  const half = lightOf('Bright middle, edge at half');
  expect(half(0.5, 0.5)).toBeGreaterThan(0.98);
  for (const edge of [half(0, 0.5), half(0.5, 1), half(0, 0)]) expect(edge).toBeCloseTo(0.5, 2);
});

it('is grey and opaque everywhere, and each is another', () => {
  const all = PANEL_GRADIENTS.map((g) => gradientPixels(g, 16));
  for (const pixels of all)
    for (let i = 0; i < pixels.length; i += 4)
      expect([pixels[i + 1], pixels[i + 2], pixels[i + 3]]).toEqual([pixels[i], pixels[i], 255]);
  expect(new Set(all.map((p) => p.join())).size).toBe(PANEL_GRADIENTS.length);
});
