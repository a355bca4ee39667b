import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { decodeTexture } from './decodeTexture.ts';

const about = { name: 'Plaster', width: 2, height: 1 };

describe('a texture', () => {
  it('of 8 bits comes out as it is, with alpha', async () => {
    const png = await sharp(Uint8Array.from([10, 20, 30, 200, 100, 0]), { raw: { width: 2, height: 1, channels: 3 } })
      .png()
      .toBuffer();
    expect([...(await decodeTexture(about, png))]).toEqual([10, 20, 30, 255, 200, 100, 0, 255]);
  });
  it('of 16 bits keeps them', async () => {
    const png = await sharp(Uint16Array.from([1000, 2001, 30003, 65535, 257, 1]), {
      raw: { width: 2, height: 1, channels: 3 },
    })
      .toColourspace('rgb16')
      .png()
      .toBuffer();
    const pixels = await decodeTexture({ ...about, bits: 16 }, png);
    expect(png[24]).toBe(16);
    expect(pixels).toBeInstanceOf(Uint16Array);
    expect([...pixels]).toEqual([1000, 2001, 30003, 65535, 65535, 257, 1, 65535]);
  });
  it('that is not the one imported is refused by name', async () => {
    const png = await sharp(new Uint8Array(3), { raw: { width: 1, height: 1, channels: 3 } })
      .png()
      .toBuffer();
    await expect(decodeTexture(about, png)).rejects.toThrow(
      /“Plaster” is damaged: it has 1 × 1 pixels instead of 2 × 1/,
    );
  });
});
