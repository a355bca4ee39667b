// A lens scatters light and darkens corners, and does nothing else.
import { describe, expect, it } from 'vitest';
import { NEUTRAL_GRADE } from './grade.ts';
import { glowOf, hasLens, lensed, smallest, throughLens } from './lens.ts';

const [widthPx, heightPx] = [160, 90];
const film = (light: (x: number, y: number) => number, size = { widthPx, heightPx }) =>
  Float32Array.from({ length: size.widthPx * size.heightPx * 4 }, (_, i) => {
    const pixel = Math.floor(i / 4);
    return i % 4 === 3 ? 1 : light(pixel % size.widthPx, Math.floor(pixel / size.widthPx)) * (1 + (i % 4));
  });
const at = (f: Float32Array, x: number, y: number, k = 0) => f[(y * widthPx + x) * 4 + k]!;
const through = (f: Float32Array, g: Partial<typeof NEUTRAL_GRADE>) =>
  lensed(f, { widthPx, heightPx }, { ...NEUTRAL_GRADE, ...g });

describe('a lens', () => {
  const picture = film((x, y) => 0.2 + 0.1 * Math.sin(x / 7) * Math.cos(y / 5) + (x === 40 && y === 30 ? 900 : 0));

  it('that does nothing gives the film itself', () => {
    expect(hasLens(NEUTRAL_GRADE)).toBe(false);
    expect(through(picture, {})).toBe(picture);
  });

  it('darkens corners by the fourth power of the cosine, and the middle not at all', () => {
    const even = film(() => 1, { widthPx: 161, heightPx: 91 });
    const seen = lensed(even, { widthPx: 161, heightPx: 91 }, { ...NEUTRAL_GRADE, vignette: Math.tan(0.6) });
    expect(seen[(45 * 161 + 80) * 4]!).toBe(1);
    // the corner's pixel is not quite in the corner
    const r = Math.hypot(160, 90) / Math.hypot(161, 91);
    expect(seen[0]!).toBeCloseTo(Math.cos(Math.atan(Math.tan(0.6) * r)) ** 4, 6);
    for (let i = 0; i < seen.length; i += 4) {
      expect(seen[i + 1]! / seen[i]!).toBeCloseTo(2, 5);
      expect(seen[i + 3]).toBe(1);
    }
  });

  it('scatters a share of light by a Gaussian, and loses none of it', () => {
    const spot = film((x, y) => (x === 80 && y === 45 ? 1000 : 0));
    const deviation = 0.05 * heightPx;
    const seen = through(spot, { bloom: 0.25, bloomSize: 0.05 });
    expect(at(seen, 80, 45)).toBeCloseTo(750 + 250 / (2 * Math.PI * deviation ** 2), 1);
    let [sum, second] = [0, 0];
    for (let y = 0; y < heightPx; y++)
      for (let x = 0; x < widthPx; x++) {
        sum += at(seen, x, y);
        second += at(seen, x, y) * (x - 80) ** 2;
      }
    expect(sum).toBeCloseTo(1000, 1);
    expect(Math.sqrt(second / 250)).toBeCloseTo(deviation, 0);
  });

  it('leaves an even picture as it is but for its vignette, up to its edges', () => {
    const seen = through(
      film(() => 0.7),
      { bloom: 0.8, bloomSize: 0.2 },
    );
    for (let i = 0; i < seen.length; i += 4) expect(seen[i]!).toBeCloseTo(0.7, 5);
  });

  it('shows a part of a picture as it shows the whole', () => {
    const g = { ...NEUTRAL_GRADE, vignette: 0.5, bloom: 0.3, bloomSize: 0.1 };
    const whole = through(picture, g);
    const pixels = { widthPx, heightPx, channels: 4, values: picture };
    const glow = glowOf(smallest(pixels), g.bloomSize);
    const [left, top, width, height] = [33, 20, 40, 25];
    const values = new Float32Array(width * height * 4);
    for (let y = 0; y < height; y++)
      values.set(
        picture.subarray(((top + y) * widthPx + left) * 4, ((top + y) * widthPx + left + width) * 4),
        y * width * 4,
      );
    const part = { widthPx: width, heightPx: height, channels: 4, values };
    const seen = throughLens(part, { left, top, widthPx, heightPx }, g, glow).values;
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++)
        for (let k = 0; k < 4; k++) expect(seen[(y * width + x) * 4 + k]).toBe(at(whole, left + x, top + y, k));
  });

  it('has the same bloom at every size of a picture', () => {
    const size = { widthPx: 640, heightPx: 360 };
    const large = film((x, y) => (Math.hypot(x - 320, y - 180) < 30 ? 50 : 0.1), size);
    const g = { ...NEUTRAL_GRADE, bloom: 0.4, bloomSize: 0.08 };
    const seen = smallest({ ...size, channels: 4, values: lensed(large, size, g) });
    const small = smallest({ ...size, channels: 4, values: large });
    const glow = glowOf(small, g.bloomSize);
    const { values } = throughLens(
      small,
      { left: 0, top: 0, widthPx: small.widthPx, heightPx: small.heightPx },
      g,
      glow,
    );
    for (let i = 0; i < values.length; i++) expect(Math.abs(values[i]! - seen.values[i]!)).toBeLessThan(0.15);
  });

  it('takes what is no number, or endless, for dark, or for the brightest there is', () => {
    const strange = film((x) => [NaN, Infinity, -3, 1][x % 4]!);
    const glow = glowOf({ widthPx, heightPx, channels: 4, values: strange }, 0.1);
    expect(glow.light.every((v) => Number.isFinite(v) && v >= 0)).toBe(true);
  });
});
