import { execFile } from 'node:child_process';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { deflateSync } from 'node:zlib';
import {
  type Grade,
  NEUTRAL_GRADE,
  NO_GRADE,
  encodeExr,
  fromHalf,
  lensed,
  toDisplay,
  toDisplay16,
  toHalf,
} from '@variscen/core/image';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import sharp from 'sharp';
import { developed, developedTogether } from './developed.ts';
import { encodedDeep, encodedPlain } from './encoded.ts';

const run = promisify(execFile);

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
    pack: (lines) => Promise.resolve(deflateSync(lines)),
    write: (bytes, at) => Promise.resolve(void pieces.push({ at, bytes })),
  });
  const out = new Uint8Array(size);
  for (const { at, bytes } of pieces) out.set(bytes, at);
  const path = join(folder, `${type}.exr`);
  await writeFile(path, out);
  return path;
}

/** What the file holds, whatever its profile says of it. */
async function codesOf16(file: Buffer): Promise<number[]> {
  const image = sharp(file, { ignoreIcc: true }).toColourspace('rgb16');
  const data = await image.raw({ depth: 'ushort' }).toBuffer();
  return [...new Uint16Array(data.buffer, data.byteOffset, data.length / 2)];
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
  vignette: fc.constantFrom(0, 0, 0.6),
  bloom: fc.constantFrom(0, 0, 0.3),
  bloomSize: fc.constantFrom(0.02, 0.2),
}) as never;

/** What somebody's program sees who reads the file by its profile: codes of sRGB. */
async function seenBySrgb(file: Buffer): Promise<number[]> {
  return [...(await sharp(file).toColourspace('srgb').removeAlpha().raw().toBuffer())];
}

describe('a picture developed from its file', () => {
  it('for another display has its profile in every format, by which it is the same picture', async () => {
    const across = (i: number) => (i % width) / width;
    const down = (i: number) => Math.floor(i / width) / height;
    const light = Array.from({ length: width * height }, (_, i) => [
      0.05 + across(i),
      down(i),
      0.6 - across(i) / 2,
    ]).flat();
    const exr = { kind: 'exr', path: await exrOf(light, 'half'), grade: NEUTRAL_GRADE } as const;
    const shownPath = join(folder, 'shown.png');
    await (await developed(exr, { bits: 8, widthPx: null }, folder)).png().toFile(shownPath);
    const wanted = await seenBySrgb(await readFile(shownPath));
    for (const source of [exr, { kind: 'shown', path: shownPath } as const])
      for (const display of ['display-p3', 'rec709'] as const) {
        const image = async (bits: 8 | 16) =>
          (await developed(source, { bits, display, widthPx: null }, folder)).withXmp('<x/>');
        const files = {
          png: await encodedPlain((await image(8)).png(), 'png', display),
          webp: await encodedPlain((await image(8)).webp({ lossless: true }), 'webp', display),
          jpeg: await encodedPlain(
            (await image(8)).jpeg({ quality: 100, chromaSubsampling: '4:4:4' }),
            'jpeg',
            display,
          ),
          deep: await encodedDeep(await image(16), 'png', display),
          tiff: await encodedDeep(await image(16), 'tiff', display),
        };
        const codes = await sharp(files.png, { ignoreIcc: true }).raw().toBuffer();
        expect(codes.equals(Buffer.from(wanted))).toBe(false);
        for (const [name, file] of Object.entries(files)) {
          const { icc, xmpAsString } = await sharp(file).metadata();
          expect([icc!.toString('utf16le').length > 200, xmpAsString], name).toEqual([true, '<x/>']);
          if (name === 'deep' || name === 'tiff') {
            // read to eight bits by a profile, 16 bits go through another conversion: their codes are held to those of
            // 8
            const deep = await sharp(file, { ignoreIcc: true }).toColourspace('srgb').raw().toBuffer();
            deep.forEach((x, i) => expect(Math.abs(x - codes[i]!), name).toBeLessThanOrEqual(1));
            continue;
          }
          // codes of eight bits that become others of eight bits are rounded twice
          const most = (source.kind === 'shown' ? 4 : 2) + (name === 'jpeg' ? 8 : 0);
          (await seenBySrgb(file)).forEach((x, i) =>
            expect(Math.abs(x - wanted[i]!), `${source.kind} ${display} ${name}`).toBeLessThanOrEqual(most),
          );
        }
      }
  });

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
          const isDeep = bits === 16;
          const codes = isDeep ? await codesOf16(await encodedDeep(image, 'png')) : [...(await image.raw().toBuffer())];
          const seen = lensed(film, { widthPx: width, heightPx: height }, g);
          expect(codes).toEqual([...(isDeep ? toDisplay16(seen, g) : toDisplay(seen, g))]);
        },
      ),
      { numRuns: 30, endOnFailure: true },
    );
  });

  it('is the same whether it is developed alone or together with others of its light', async () => {
    const ways = fc.record({
      grade: fc.oneof(grade, fc.constant(NO_GRADE)),
      bits: fc.constantFrom(8 as const, 16 as const),
    });
    await fc.assert(
      fc.asyncProperty(
        fc.array(light, { minLength: width * height * 3, maxLength: width * height * 3 }),
        fc.array(ways, { minLength: 1, maxLength: 5 }),
        fc.constantFrom('half' as const, 'float' as const),
        async (rgb, shown, type) => {
          const path = await exrOf(rgb, type);
          const together = await developedTogether(path, shown, folder);
          for (const [i, { grade: g, bits }] of shown.entries()) {
            const alone = await developed({ kind: 'exr', path, grade: g }, { bits, widthPx: null }, folder);
            const depth = bits === 16 ? 'ushort' : 'uchar';
            const [a, b] = await Promise.all([alone, together[i]!].map((x) => x.raw({ depth }).toBuffer()));
            expect(b!.equals(a!)).toBe(true);
          }
        },
      ),
      { numRuns: 20, endOnFailure: true },
    );
  });

  it('of 16 bits says that it is sRGB, and has every code as it was given, in both formats', async () => {
    const given = Uint16Array.from([49, 65_184, 7275, 65_535, 0, 0, 0, 65_535, 0, 30_000, 20_000, 10_000]);
    const raw = { width: 4, height: 1, channels: 3 } as const;
    for (const [format, extension] of [
      ['png', 'png'],
      ['tiff', 'tif'],
    ] as const) {
      const file = await encodedDeep(sharp(given, { raw }).toColourspace('rgb16').withXmp('<x/>'), format);
      const { icc, depth, xmpAsString } = await sharp(file).metadata();
      expect([icc!.length, depth, xmpAsString]).toEqual([480, 'ushort', '<x/>']);
      expect(await codesOf16(file)).toEqual([...given]);
      await writeFile(join(folder, `deep.${extension}`), file);
      const { stdout } = await run('oiiotool', ['--info', '-v', join(folder, `deep.${extension}`)]);
      expect(stdout).toMatch(/ICCProfile:.*480/s);
    }
  });
});
