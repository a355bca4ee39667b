// Layers read back from files as this product writes them.
import { deflateSync, inflateSync } from 'node:zlib';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type ExrChannel, type ExrImage, encodeExr, fromHalf, readExrLayers, toHalf } from '../index.ts';
import { mixedLight, packLightPicture, unpackLightPicture } from '../lightPicture.ts';

async function fileOf(image: ExrImage): Promise<Uint8Array> {
  const pieces: { at: number; bytes: Uint8Array }[] = [];
  const size = await encodeExr(image, {
    blocksAtOnce: 2,
    pack: (lines) => Promise.resolve(deflateSync(lines)),
    write: (bytes, at) => Promise.resolve(void pieces.push({ at, bytes })),
  });
  const out = new Uint8Array(size);
  for (const { at, bytes } of pieces) out.set(bytes, at);
  return out;
}
const sourceOf = (file: Uint8Array) => ({
  read: (from: number, bytes: number) => Promise.resolve(file.subarray(from, from + bytes)),
  inflate: (packed: Uint8Array) => new Uint8Array(inflateSync(packed)),
});
const values = (n: number, seed: number) =>
  Float32Array.from({ length: n }, (_, i) => ((i * 7 + seed * 13) % 101) / 16 + (i % 5 ? 0 : 1000));
const image = (width: number, height: number, more: Partial<ExrImage>, channels: readonly ExrChannel[]): ExrImage =>
  ({ width, height, channels, metadata: {}, ...more }) as ExrImage;

describe('layers of an OpenEXR file', () => {
  it('are what was written, as halves and floats, packed in any way, in a part of a frame', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 1, max: 40 }),
        fc.integer({ min: 1, max: 40 }),
        fc.constantFrom('zip', 'zips', 'none' as const),
        fc.integer({ min: 0, max: 9 }),
        async (width, height, compression, seed) => {
          const n = width * height;
          const channels = [
            { name: 'R', type: 'half', data: values(n, seed) },
            { name: 'light.2.G', type: 'half', data: values(n, seed + 1) },
            { name: 'depth.Z', type: 'float', data: values(n, seed + 2) },
          ] as const;
          const within = { left: 3, top: 5, width: width + 9, height: height + 9 };
          const file = await fileOf(image(width, height, { compression: compression as 'zip', within }, channels));
          const read = await readExrLayers(sourceOf(file), (c) => c !== 'R', 1e6);
          expect([read.widthPx, read.heightPx, [...read.channels.keys()].sort()]).toEqual([
            width,
            height,
            ['depth.Z', 'light.2.G'],
          ]);
          expect([...read.channels.get('depth.Z')!]).toEqual([...channels[2].data]);
          expect([...read.channels.get('light.2.G')!]).toEqual([...channels[1].data].map((x) => fromHalf(toHalf(x))));
        },
      ),
      { numRuns: 60 },
    );
  });

  it('of a wide picture are means of squares, also of those at its edges', async () => {
    const data = Float32Array.from({ length: 5 * 3 }, (_, i) => i);
    const file = await fileOf(image(5, 3, {}, [{ name: 'Y', type: 'float', data }]));
    const { widthPx, heightPx, channels } = await readExrLayers(sourceOf(file), () => true, 3);
    expect([widthPx, heightPx]).toEqual([3, 2]);
    expect([...channels.get('Y')!]).toEqual([(0 + 1 + 5 + 6) / 4, (2 + 3 + 7 + 8) / 4, (4 + 9) / 2, 10.5, 12.5, 14]);
  });

  it('of a header of megabytes are found', async () => {
    const metadata = { manifest: 'x'.repeat(3e6) };
    const file = await fileOf(image(2, 2, { metadata }, [{ name: 'Y', type: 'half', data: values(4, 1) }]));
    expect((await readExrLayers(sourceOf(file), () => true, 10)).channels.get('Y')).toHaveLength(4);
  });

  it('of what is cut short or no such file are refused', async () => {
    const file = await fileOf(image(9, 40, {}, [{ name: 'Y', type: 'half', data: values(360, 1) }]));
    for (const cut of [0, 5, 40, 200, file.length - 1])
      await expect(readExrLayers(sourceOf(file.slice(0, cut)), () => true, 10)).rejects.toThrow(RangeError);
    const other = file.slice();
    other[0] = 1;
    await expect(readExrLayers(sourceOf(other), () => true, 10)).rejects.toThrow('no OpenEXR');
  });
});

describe('a picture with its light kept apart', () => {
  it('is packed and unpacked, and is the sum of its groups as they are mixed', () => {
    const picture = {
      widthPx: 2,
      heightPx: 1,
      groups: ['1', '三'],
      by: 'group' as const,
      rest: Float32Array.of(1, 1, 1, 0, 0, 0),
      light: [Float32Array.of(1, 2, 3, 4, 5, 6), Float32Array.of(10, 10, 10, 0, 0, 0)],
      coverage: Float32Array.of(1, 0.5),
    };
    const { buffer, byteOffset, byteLength } = packLightPicture(picture);
    const read = unpackLightPicture(buffer.slice(byteOffset, byteOffset + byteLength) as ArrayBuffer);
    expect(read).toEqual(picture);
    const mixed = mixedLight(read, [
      [1, 0.5, 2],
      [0, 0, 0],
    ]);
    expect([...mixed]).toEqual([2, 2, 7, 1, 4, 2.5, 12, 0.5]);
  });
});
