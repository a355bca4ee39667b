import { describe, expect, it } from 'vitest';
import { INK_DEFAULTS, type InkLayers, drawInk } from './index.ts';

const W = 24;
const H = 8;
/** Two objects side by side, light rising from left to right. */
function layers(drawnFrom = 0): InkLayers {
  const n = W * H;
  const x = (i: number) => i % W;
  const fill = (size: number, f: (i: number, c: number) => number) =>
    Float32Array.from({ length: n * size }, (_, k) => f(Math.floor(k / size), k % size));
  return {
    width: W,
    height: H,
    rgba: fill(4, (i, c) => (c === 3 ? 1 : ((x(i) + 1) / W) * [0.8, 0.4, 0.2][c]!)),
    albedo: fill(3, (_, c) => [0.8, 0.4, 0.2][c]!),
    emission: fill(3, () => 0),
    normal: fill(3, (_, c) => (c === 2 ? 1 : 0)),
    depth: fill(1, () => 2),
    object: Uint32Array.from({ length: n }, (_, i) => (x(i) < 12 ? 1 : 2)),
    drawn: fill(1, (i) => (x(i) >= drawnFrom ? 1 : 0)),
  };
}
const red = (film: Float32Array) => Array.from({ length: W }, (_, x) => film[(4 * W + x) * 4]!);

describe('the drawn look', () => {
  it('has as many flat tones of the own colour as it has levels, rising with the light', () => {
    const tones = red(drawInk(layers(), { lineWidthPx: 1 })).filter((_, x) => x !== 11);
    const distinct = [...new Set(tones.map((t) => t.toFixed(4)))];
    expect(distinct).toHaveLength(INK_DEFAULTS.levels.length);
    expect([...tones].sort((a, b) => a - b)).toEqual(tones);
    const film = drawInk(layers());
    expect(film[(4 * W + 20) * 4]! / film[(4 * W + 20) * 4 + 1]!).toBeCloseTo(2, 5);
  });
  it('draws a line of its width where one object ends', () => {
    const tones = red(drawInk(layers(), { lineWidthPx: 2 }));
    const dark = tones.flatMap((t, x) => (t < 0.02 ? [x] : []));
    expect(dark).toEqual([11, 12]);
  });
  it('draws lines at creases and at jumps of depth, not on a slope', () => {
    const flat = layers();
    const one = { ...flat, object: new Uint32Array(W * H) };
    expect(red(drawInk({ ...one, depth: one.depth.map((_, i) => 2 + (i % W) * 0.05) })).every((t) => t > 0.02)).toBe(
      true,
    );
    expect(red(drawInk({ ...one, depth: one.depth.map((_, i) => (i % W < 6 ? 2 : 3)) })).some((t) => t < 0.02)).toBe(
      true,
    );
    expect(
      red(
        drawInk({ ...one, normal: one.normal.map((v, k) => (Math.floor(k / 3) % W < 6 ? [1, 0, 0][k % 3]! : v)) }),
      )[5],
    ).toBeLessThan(0.02);
  });
  it('leaves what is not drawn as it was', () => {
    const l = layers(18);
    const film = drawInk(l);
    expect(red(film).slice(0, 17)).toEqual(red(l.rgba).slice(0, 17));
    expect(drawInk({ ...l, drawn: new Float32Array(W * H) })).toEqual(l.rgba);
  });
});
