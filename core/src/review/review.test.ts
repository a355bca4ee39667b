import { differenceCiede2000 } from 'culori/fn';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { NEUTRAL_GRADE, NO_GRADE, decodeSrgb, layersIn } from '../image/index.ts';
import {
  type LayerPixels,
  type Showing,
  differenceOf,
  fittingRange,
  labOf,
  resampled,
  shownPixels,
  statisticsOf,
} from './index.ts';

const plain = { kind: 'graded', grade: NO_GRADE, lut: undefined } as const satisfies Showing;
function pixelsOf(widthPx: number, values: readonly number[], channels = 4): LayerPixels {
  return { widthPx, heightPx: values.length / channels / widthPx, channels, values: Float32Array.from(values) };
}
const grey = (...codes: number[]) =>
  pixelsOf(
    codes.length,
    codes.flatMap((c) => [c, c, c, 1].map((v, k) => (k < 3 ? decodeSrgb(v / 255) : 1))),
  );

describe('a perceived difference', () => {
  // Sharma, Wu and Dalal 2005: pairs in CIELAB and what CIEDE2000 makes of them, table 1
  const PUBLISHED = [
    [50, 2.6772, -79.7751, 50, 0, -82.7485, 2.0425],
    [50, 3.1571, -77.2803, 50, 0, -82.7485, 2.8615],
    [50, 0, 0, 50, -1, 2, 2.3669],
    [50, 2.49, -0.001, 50, -2.49, 0.0009, 7.1792],
    [50, 2.49, -0.001, 50, -2.49, 0.0011, 7.2195],
    [50, 2.5, 0, 73, 25, -18, 27.1492],
    [50, 2.5, 0, 56, -27, -3, 31.903],
    [60.2574, -34.0099, 36.2677, 60.4626, -34.1751, 39.4387, 1.2644],
    [2.0776, 0.0795, -1.135, 0.9033, -0.0636, -0.5514, 0.9082],
  ] as const;
  it('is that of the published pairs', () => {
    const lab = (l: number, a: number, b: number) => ({ mode: 'lab65' as const, l, a, b });
    for (const [l, a, b, l2, a2, b2, wanted] of PUBLISHED)
      expect(differenceCiede2000()(lab(l, a, b), lab(l2, a2, b2))).toBeCloseTo(wanted, 4);
  });
  it('stands on what a screen shows: white, middle grey and the primaries have their known places in CIELAB', () => {
    expect(labOf([1, 1, 1]).l).toBeCloseTo(100, 2);
    expect(labOf([119 / 255, 119 / 255, 119 / 255]).l).toBeCloseTo(50.03, 1);
    const { l, a, b } = labOf([1, 0, 0]);
    expect([l, a, b].map((x) => Math.round(x))).toEqual([53, 80, 67]);
  });
  it('counts what an eye notices, and shows it by its scale', () => {
    const found = differenceOf(
      grey(100, 100, 100),
      grey(100, 101, 140),
      { kind: 'perceived', scale: 1, isSigned: false },
      [plain, plain],
    );
    expect([found.differing, found.noticed]).toEqual([2, 1]);
    expect(found.pixels[8]).toBe(255);
    expect(found.pixels[0]).toBe(0);
  });
});

describe('a difference', () => {
  it('is nothing between a picture and itself, in every way, under any grade, and the other way round between two', () => {
    const value = fc.double({ min: 0, max: 3, noNaN: true });
    const picture = fc.array(value, { minLength: 16, maxLength: 16 }).map((v) => pixelsOf(2, v));
    const graded = { ...plain, grade: { ...NEUTRAL_GRADE, exposureEv: 1.3, contrast: 1.2 } };
    for (const kind of ['light', 'shown', 'perceived'] as const)
      fc.assert(
        fc.property(picture, picture, (a, b) => {
          const asked = { kind, scale: 4, isSigned: true };
          const same = differenceOf(a, a, asked, [graded, graded]);
          expect([same.sum, same.most, same.differing]).toEqual([0, 0, 0]);
          const [one, other] = [differenceOf(a, b, asked, [graded, plain]), differenceOf(b, a, asked, [plain, graded])];
          expect(one.sum).toBeCloseTo(other.sum, 9);
          // grey in the middle: what is brighter one way is darker the other
          one.pixels.forEach(
            (p, i) => i % 4 < 3 && expect(Math.abs(p + other.pixels[i]! - 255)).toBeLessThanOrEqual(1),
          );
        }),
        { numRuns: 30 },
      );
  });
  it('of light is that of light, whatever the grades; of what is shown is codes apart', () => {
    const [a, b] = [pixelsOf(1, [0.5, 0.5, 0.5, 1]), pixelsOf(1, [0.75, 0.5, 0.25, 1])];
    const light = differenceOf(a, b, { kind: 'light', scale: 2, isSigned: true }, [plain, plain]);
    expect([...light.pixels]).toEqual([191, 128, 64, 255]);
    expect(light.most).toBe(0.25);
    const shown = differenceOf(grey(100), grey(103), { kind: 'shown', scale: 10, isSigned: false }, [plain, plain]);
    expect(shown.most * 255).toBeCloseTo(3, 6);
    expect(shown.pixels[0]).toBe(30);
  });
});

describe('a layer', () => {
  it('is shown within a range that fits it: near is bright, nothing is black, what points nowhere is grey', () => {
    const depth = pixelsOf(4, [2, 4, 6, 65_504], 1);
    const range = fittingRange('distance', depth)!;
    expect(range).toEqual({ from: 6, to: 2 });
    const shown = shownPixels(depth, { kind: 'ranged', range: { from: 10, to: 2 } });
    expect([shown[0], shown[4], shown[8], shown[12]]).toEqual([255, 191, 128, 0]);
    const normals = pixelsOf(2, [0, 0, 1, -1, 0.5, 0], 3);
    expect(fittingRange('vector', normals)).toEqual({ from: -1, to: 1 });
    expect([...shownPixels(normals, { kind: 'ranged', range: { from: -1, to: 1 } })]).toEqual([
      128, 128, 255, 255, 0, 191, 128, 255,
    ]);
    expect(fittingRange('amount', pixelsOf(2, [3, 9], 1))).toEqual({ from: 0, to: 9 });
    expect(fittingRange('light', depth)).toBeNull();
    expect(fittingRange('distance', pixelsOf(1, [65_504], 1))).toEqual({ from: 0, to: 1 });
  });
  it('is found by the names of its channels, the picture first', () => {
    const channels = [
      'A',
      'B',
      'CryptoObject00.R',
      'G',
      'R',
      'depth.Z',
      'depth.range',
      'light.key.light.B',
      'light.key.light.G',
      'light.key.light.R',
      'normal.X',
      'normal.Y',
      'normal.Z',
    ];
    expect(layersIn(channels).map((l) => [l.name, l.kind, l.channels.join()])).toEqual([
      ['picture', 'light', 'R,G,B,A'],
      ['depth', 'distance', 'depth.Z'],
      ['depth.range', 'share', 'depth.range'],
      ['light.key.light', 'light', 'light.key.light.R,light.key.light.G,light.key.light.B'],
      ['normal', 'vector', 'normal.X,normal.Y,normal.Z'],
    ]);
  });
});

describe('a region', () => {
  it('has the mean of its light, each brightness as often as it occurs, and where', () => {
    const region = grey(0, 0, 255, 255, 0, 0, 255, 128);
    const { mean, least, most, histogram, waveform, pixels } = statisticsOf(
      { ...region, widthPx: 4, heightPx: 2 },
      plain,
    );
    expect(pixels).toBe(8);
    expect(mean[0]).toBeCloseTo((3 + decodeSrgb(128 / 255)) / 8, 6);
    expect([least[0], most[0]]).toEqual([0, 1]);
    expect([histogram[0]![0], histogram[0]![63], histogram[0]![32]]).toEqual([0.5, 0.375, 0.125]);
    for (const h of histogram) expect(h.reduce((a, b) => a + b)).toBeCloseTo(1, 9);
    // the first two columns are black, the last is white above and grey below
    expect([waveform[0], waveform[64], waveform[2 * 64 + 63], waveform[3 * 64 + 63], waveform[3 * 64 + 32]]).toEqual([
      1, 1, 1, 0.5, 0.5,
    ]);
    expect(statisticsOf(pixelsOf(1, [4], 1), { kind: 'ranged', range: { from: 0, to: 1 } }).histogram).toEqual([]);
  });
});

describe('a picture at another size', () => {
  it('is what it was at its own, a straight line between pixels, and goes on as its edge', () => {
    const of = pixelsOf(4, [0, 1, 2, 3], 1);
    expect([...resampled(of, { left: 0, top: 0, widthPx: 4, heightPx: 1 }, [1, 1]).values]).toEqual([0, 1, 2, 3]);
    expect([...resampled(of, { left: 2, top: 0, widthPx: 2, heightPx: 1 }, [1, 1]).values]).toEqual([2, 3]);
    expect([...resampled(of, { left: 0, top: 0, widthPx: 8, heightPx: 2 }, [0.5, 0.5]).values].slice(0, 8)).toEqual([
      0, 0.25, 0.75, 1.25, 1.75, 2.25, 2.75, 3,
    ]);
    expect([...resampled(of, { left: 0, top: 0, widthPx: 2, heightPx: 1 }, [2, 1]).values]).toEqual([0.5, 2.5]);
  });
});
