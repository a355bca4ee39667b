import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { fromHalf, toHalf } from '../half.ts';
import {
  type MadeTile,
  PyramidBuilder,
  TILE_PX,
  isTileOf,
  levelFor,
  levelsOf,
  tileFromBytes,
  tileIndex,
  tileToBytes,
} from './index.ts';

const sizes = fc.record({ widthPx: fc.integer({ min: 1, max: 700 }), heightPx: fc.integer({ min: 1, max: 700 }) });

function pyramidOf(
  widthPx: number,
  heightPx: number,
  channels: number,
  at: (x: number, y: number, k: number) => number,
) {
  const tiles: MadeTile[] = [];
  const builder = new PyramidBuilder({ widthPx, heightPx }, channels, (tile) => tiles.push(tile));
  const line = new Float32Array(widthPx * channels);
  for (let y = 0; y < heightPx; y++) {
    for (let x = 0; x < widthPx; x++) for (let k = 0; k < channels; k++) line[x * channels + k] = at(x, y, k);
    builder.addLine(line);
  }
  const levels = levelsOf({ widthPx, heightPx });
  const valueAt = (level: number, x: number, y: number, k: number) => {
    const [tx, ty] = [Math.floor(x / TILE_PX), Math.floor(y / TILE_PX)];
    const tile = tiles.find((t) => t.level === level && t.x === tx && t.y === ty)!;
    const across = Math.min(TILE_PX, levels[level]!.widthPx - tx * TILE_PX);
    return tile.pixels[((y - ty * TILE_PX) * across + (x - tx * TILE_PX)) * channels + k]!;
  };
  return { tiles, levels, valueAt };
}

describe('a picture in tiles', () => {
  it('has every tile of every level once, whatever its size, and each in a place of its own', () => {
    fc.assert(
      fc.property(sizes, ({ widthPx, heightPx }) => {
        const { tiles, levels } = pyramidOf(widthPx, heightPx, 1, () => 1);
        const places = tiles.map((t) => tileIndex(levels, t)).sort((a, b) => a - b);
        expect(places).toEqual(Array.from({ length: places.length }, (_, i) => i));
        expect(places).toHaveLength(levels.reduce((n, l) => n + l.columns * l.rows, 0));
        expect(tiles.every((t) => isTileOf(levels, t))).toBe(true);
        expect(levels.at(-1)).toMatchObject({ columns: 1, rows: 1 });
        // what is everywhere the same is so at every size, at cut edges too
        expect(tiles.every((t) => t.pixels.every((v) => v === 1))).toBe(true);
      }),
      { numRuns: 40 },
    );
  });

  it('holds the picture itself at its full size, and means of squares below', () => {
    const value = (x: number, y: number, k: number) => x + 1000 * y + 0.25 * k;
    const { levels, valueAt } = pyramidOf(601, 303, 3, value);
    for (const [x, y] of [
      [0, 0],
      [255, 255],
      [256, 256],
      [600, 302],
      [300, 17],
    ] as const)
      for (const k of [0, 1, 2]) expect(valueAt(0, x, y, k)).toBeCloseTo(value(x, y, k), 1);
    expect(valueAt(1, 10, 20, 0)).toBeCloseTo((value(20, 40, 0) + value(21, 41, 0)) / 2, 3);
    // of the last column and line there is only one
    expect(valueAt(1, 300, 151, 0)).toBeCloseTo(value(600, 302, 0), 1);
    expect(levels.map((l) => l.widthPx)).toEqual([601, 301, 151]);
  });

  it('names the smallest level that has enough pixels', () => {
    const levels = levelsOf({ widthPx: 4096, heightPx: 2048 });
    expect(levelFor(levels, 4096)).toBe(0);
    expect(levelFor(levels, 2049)).toBe(0);
    expect(levelFor(levels, 2048)).toBe(1);
    expect(levelFor(levels, 9000)).toBe(0);
    expect(levelFor(levels, 1)).toBe(levels.length - 1);
    expect(isTileOf(levels, { level: 0, x: 16, y: 0 })).toBe(false);
    expect(isTileOf(levels, { level: 99, x: 0, y: 0 })).toBe(false);
  });

  it('comes back from bytes as halves of what went in', () => {
    const value = fc.oneof(fc.float({ noNaN: true }), fc.constantFrom(0, -0, 1e-8, 65_504, 1e9, -3));
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 9 }),
        fc.integer({ min: 1, max: 4 }),
        fc.array(value, { minLength: 36, maxLength: 36 }),
        (width, channels, v) => {
          const rows = Math.floor(v.length / (width * channels));
          const pixels = Float32Array.from(v.slice(0, rows * width * channels));
          const back = tileFromBytes(tileToBytes(pixels, width, channels), width, channels);
          expect([...back]).toEqual([...pixels].map((x) => fromHalf(toHalf(x))));
        },
      ),
    );
    expect(() => tileFromBytes(new Uint8Array(7), 3, 1)).toThrow(RangeError);
  });
});
