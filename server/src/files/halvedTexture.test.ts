import type { SceneTexture } from '@variscen/core/scene';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { halvedTexture } from './halvedTexture.ts';

const about = (mediaType: string, bits?: 16): SceneTexture => ({
  ...{ name: 'tiles', blob: '', mediaType, width: 8, height: 6 },
  ...(bits && { bits }),
});
const raw = { width: 8, height: 6, channels: 4 } as const;
/** Black and white columns, half covered. */
const columns = (white: number) =>
  Array.from({ length: 8 * 6 * 4 }, (_, i) => {
    if (i % 4 === 3) return white >> 1;
    return (i >> 2) % 2 ? white : 0;
  });
const grey = Uint8Array.from(columns(255));
const pixel = async (image: Uint8Array) => {
  const { data } = await sharp(image)
    .toColourspace('rgb16')
    .raw({ depth: 'ushort' })
    .toBuffer({ resolveWithObject: true });
  return new Uint16Array(new Uint8Array(data).buffer)[0];
};

describe('an image at a coarser level', () => {
  it('is half or a quarter as large, in its format, and as it is at the finest', async () => {
    const png = await sharp(grey, { raw }).png().toBuffer();
    expect(await halvedTexture(about('image/png'), png, 0, true)).toBe(png);
    for (const [level, width, height] of [
      [1, 4, 3],
      [2, 2, 1],
    ] as const) {
      const meta = await sharp(await halvedTexture(about('image/png'), png, level, true)).metadata();
      expect(meta).toMatchObject({ format: 'png', width, height, hasAlpha: true, depth: 'uchar' });
    }
    for (const format of ['jpeg', 'webp'] as const) {
      const image = await sharp(grey, { raw })[format]().toBuffer();
      const meta = await sharp(await halvedTexture(about(`image/${format}`), image, 1, true)).metadata();
      expect(meta).toMatchObject({ format, width: 4, height: 3 });
    }
  });
  it('averages colours as light, and numbers as numbers', async () => {
    const png = await sharp(grey, { raw }).png().toBuffer();
    const mean = async (isSrgb: boolean) =>
      (
        await sharp(await halvedTexture(about('image/png'), png, 1, isSrgb))
          .raw()
          .toBuffer()
      )[0];
    expect([await mean(true), await mean(false)]).toEqual([188, 128]);
  });
  it('keeps sixteen bits', async () => {
    const wide = Uint16Array.from(columns(65535));
    const png = await sharp(wide, { raw }).toColourspace('rgb16').png().toBuffer();
    const half = await halvedTexture(about('image/png', 16), png, 1, false);
    expect((await sharp(half).metadata()).depth).toBe('ushort');
    expect(await pixel(half)).toBe(32768);
  });
});
