import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { deflateSync } from 'node:zlib';
import {
  type Grade,
  NEUTRAL_GRADE,
  encodeExr,
  fromHalf,
  packExrBlock,
  toDisplay,
  toDisplay16,
  toHalf,
} from '@variscen/core/image';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { developed } from './developed.ts';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'variscen-developed-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const [width, height] = [19, 7];
async function exrOf(rgb: readonly number[], type: 'half' | 'float'): Promise<string> {
  const pieces: { at: number; bytes: Uint8Array }[] = [];
  const plane = (k: number) => Float32Array.from({ length: width * height }, (_, i) => rgb[i * 3 + k]!);
  const channels = ['R', 'G', 'B'].map((name, k) => ({ name, type, data: plane(k) }));
  const within = { left: 0, top: 0, width, height };
  const size = await encodeExr({ width, height, within, channels, metadata: {}, compression: 'zip' } as never, {
    blocksAtOnce: 1,
    pack: (lines) => Promise.resolve(packExrBlock(lines, (b) => deflateSync(b))),
    write: (bytes, at) => Promise.resolve(void pieces.push({ at, bytes })),
  });
  const out = new Uint8Array(size);
  for (const { at, bytes } of pieces) out.set(bytes, at);
  const path = join(folder, `${type}.exr`);
  await writeFile(path, out);
  return path;
}

const light = fc.oneof(fc.double({ min: -0.5, max: 4, noNaN: true }), fc.constantFrom(0, 65_504, 1e-7));
const grade: fc.Arbitrary<Grade> = fc.record({
  ...Object.fromEntries(Object.entries(NEUTRAL_GRADE).map(([k, v]) => [k, fc.constant(v)])),
  exposureEv: fc.double({ min: -3, max: 3, noNaN: true }),
  contrast: fc.constantFrom(1, 0.7, 1.3),
  rolloff: fc.constantFrom(0, 0.6, 1),
  slope: fc.constantFrom([1, 1, 1], [1.2, 1, 0.8]),
  power: fc.constantFrom([1, 1, 1], [0.9, 1.1, 1]),
  saturation: fc.constantFrom(1, 1, 1.4),
  whiteKelvin: fc.constantFrom(6500, 6500, 4300),
}) as never;

describe('a picture developed from its file', () => {
  it('has the codes of its light by its grade, whether worked out or looked up, of 8 bits and of 16', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(light, { minLength: width * height * 3, maxLength: width * height * 3 }),
        grade,
        fc.constantFrom('half' as const, 'float' as const),
        fc.constantFrom(8 as const, 16 as const),
        async (rgb, g, type, bits) => {
          const stored = rgb.map((v) => (type === 'half' ? fromHalf(toHalf(v)) : Math.fround(v)));
          const film = new Float32Array(width * height * 4);
          for (let i = 0; i < width * height; i++) for (let k = 0; k < 3; k++) film[i * 4 + k] = stored[i * 3 + k]!;
          const source = { kind: 'exr', path: await exrOf(rgb, type), grade: g } as const;
          const image = await developed(source, { bits, widthPx: null }, folder);
          const data = await image.raw(bits === 16 ? { depth: 'ushort' } : {}).toBuffer();
          const found = bits === 16 ? new Uint16Array(data.buffer, data.byteOffset, data.length / 2) : data;
          const wanted = bits === 16 ? toDisplay16(film, g) : toDisplay(film, g);
          // the sRGB profile that is written with 16 bits moves codes by up to half of one of 255
          const allowed = bits === 16 ? 160 : 0;
          expect(found).toHaveLength(wanted.length);
          expect(Math.max(...wanted.map((w, i) => Math.abs(w - found[i]!)))).toBeLessThanOrEqual(allowed);
        },
      ),
      { numRuns: 25 },
    );
  });
});
