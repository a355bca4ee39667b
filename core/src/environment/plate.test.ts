import { describe, expect, it } from 'vitest';
import { decodeSrgb } from '../image/index.ts';
import { type PlatePicture, underlaid } from './index.ts';

const picture = (width: number, height: number, at: (x: number, y: number) => number): PlatePicture => ({
  width,
  height,
  data: Uint8Array.from({ length: width * height * 4 }, (_, i) => {
    const pixel = i >> 2;
    return i % 4 === 3 ? 255 : at(pixel % width, Math.floor(pixel / width));
  }),
});
const whole = (widthPx: number, heightPx: number) => ({ left: 0, top: 0, widthPx, heightPx });
const under = (widthPx: number, heightPx: number, plate: PlatePicture, part = whole(widthPx, heightPx)) =>
  underlaid(new Float32Array(part.widthPx * part.heightPx * 4), part, { widthPx, heightPx }, plate, 1);
const greens = (film: Float32Array) => [...film.filter((_, i) => i % 4 === 1)];

describe('a plate under a picture', () => {
  it('of the frame’s size is itself, to the code', () => {
    const plate = picture(5, 4, (x, y) => x * 40 + y * 10);
    const light = greens(under(5, 4, plate));
    expect(light).toEqual(Array.from({ length: 20 }, (_, i) => Math.fround(decodeSrgb(plate.data[i * 4]! / 255))));
  });

  it('larger than the frame keeps its light: lines finer than a pixel are their mean', () => {
    const stripes = picture(64, 64, (x) => (x % 2 ? 255 : 0));
    const light = greens(under(8, 8, stripes));
    for (const x of light) expect(Math.abs(x - 0.5)).toBeLessThan(0.02);
  });

  it('smaller than the frame is blended between its pixels', () => {
    const light = greens(
      under(
        16,
        4,
        picture(4, 1, (x) => (x < 2 ? 0 : 255)),
      ),
    ).slice(16, 32);
    expect(light[0]).toBe(0);
    expect(light[15]).toBe(1);
    for (let i = 1; i < 16; i++) expect(light[i]! - light[i - 1]!).toBeLessThanOrEqual(0.26);
  });

  it('is the same in a part of the frame, and cut where its shape is another', () => {
    const plate = picture(30, 50, (x, y) => (x * 7 + y * 3) % 256);
    const all = greens(under(20, 10, plate));
    const part = greens(under(20, 10, plate, { left: 4, top: 3, widthPx: 5, heightPx: 4 }));
    expect(part).toEqual(Array.from({ length: 20 }, (_, i) => all[(3 + Math.floor(i / 5)) * 20 + 4 + (i % 5)]));
    const fifths = greens(
      under(
        10,
        10,
        picture(20, 10, (x) => (x < 5 || x >= 15 ? 255 : 0)),
      ),
    );
    expect(fifths.every((x) => x === 0)).toBe(true);
  });
});
