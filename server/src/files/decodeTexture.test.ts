import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { damageOf, decodeTexture } from './decodeTexture.ts';

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

it('takes the numbers as they are in the file, whatever colour profile it carries', async () => {
  const rgb = Buffer.from([200, 30, 60, 10, 120, 240]);
  const raw = { raw: { width: 2, height: 1, channels: 3 } } as const;
  const plain = await sharp(rgb, raw).png().toBuffer();
  const p3 = await sharp(rgb, raw).withIccProfile('p3').png().toBuffer();
  const stored = await sharp(p3, { ignoreIcc: true }).raw().toBuffer();
  expect([...stored]).not.toEqual([...rgb]); // so the profile would make a difference
  const size = { name: 'Weave', width: 2, height: 1 };
  expect([...(await decodeTexture(size, plain))]).toEqual([200, 30, 60, 255, 10, 120, 240, 255]);
  const decoded = await decodeTexture(size, p3);
  expect([0, 1, 2, 4, 5, 6].map((i) => decoded[i])).toEqual([...stored]);
});

describe('damage', () => {
  const noise = (n: number) => Buffer.from(Array.from({ length: n * n * 3 }, (_, i) => (i * 7919) % 251));
  const image = sharp(noise(64), { raw: { width: 64, height: 64, channels: 3 } });
  it.each(['png', 'jpeg', 'webp'] as const)('of a %s that is cut short or overwritten is found', async (format) => {
    const bytes = await image.clone().toFormat(format).toBuffer();
    expect(await damageOf(bytes, 64, 64)).toBeNull();
    expect(await damageOf(bytes.subarray(0, bytes.length >> 1), 64, 64)).toBe('it cannot be decoded');
    expect(await damageOf(bytes, 64, 32)).toBe('it has 64 × 64 pixels');
    expect(await damageOf(Buffer.alloc(500, 7), 64, 64)).toBe('it is no image that can be read');
  });
  it('is said by the name of the texture when it is rendered', async () => {
    const bytes = await image.clone().png().toBuffer();
    const torn = decodeTexture({ name: 'Weave', width: 64, height: 64 }, bytes.subarray(0, bytes.length >> 1));
    await expect(torn).rejects.toThrow(/^Texture “Weave” is damaged: it cannot be decoded\. Import the scene again\.$/);
  });
});
