// Textures of the town: each house has its own plaster, roof and wood. The patterns are made once and coloured anew.
import { encode } from 'fast-png';
import { layers } from '../textures.ts';

export type Rgb = readonly [number, number, number];

/** Brightness 0…255 of a pattern, which others of half the size are read from. */
export class Pattern {
  private readonly values: Uint8Array;
  constructor(
    private readonly size: number,
    at: (u: number, v: number) => number,
  ) {
    this.values = new Uint8Array(size * size);
    for (let y = 0; y < size; y++)
      for (let x = 0; x < size; x++)
        this.values[y * size + x] = Math.max(0, Math.min(255, at((x + 0.5) / size, (y + 0.5) / size) * 255));
  }

  /** From dark to bright; shift: where it begins, so that no two look the same. */
  png(size: number, dark: Rgb, bright: Rgb, shift: number): Uint8Array {
    const step = Math.max(1, this.size / size);
    const data = new Uint8Array(size * size * 3);
    for (let y = 0; y < size; y++)
      for (let x = 0; x < size; x++) {
        const from =
          (Math.floor(y * step + shift * 7) % this.size) * this.size + (Math.floor(x * step + shift) % this.size);
        const t = this.values[from]! / 255;
        const to = (y * size + x) * 3;
        for (let c = 0; c < 3; c++) data[to + c] = dark[c]! + (bright[c]! - dark[c]!) * t;
      }
    return encode({ width: size, height: size, data, channels: 3, depth: 8 }, { zlib: { level: 1 } });
  }
}

const LARGEST = 1024;
export const patterns = () => ({
  plaster: new Pattern(LARGEST, (u, v) => layers(u, v, 8, 21)),
  clay: new Pattern(LARGEST, (u, v) => 0.3 + 0.7 * layers(u, v, 24, 91)),
  wood: new Pattern(LARGEST, (u, v) => 0.5 * layers(u * 0.5, v * 8, 4, 9) + 0.5 * layers(u, v, 6, 3)),
  earth: new Pattern(LARGEST * 4, (u, v) => 0.6 * layers(u, v, 12, 5) + 0.4 * layers(u, v, 96, 7)),
});
