import { execFile } from 'node:child_process';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { inflateSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readExrLayers, writeExr } from '../image/index.ts';
import { readReference } from './readReference.ts';

const run = promisify(execFile);
const [width, height] = [37, 21];
const value = (i: number) => (i % 17) / 8;
const plane = (k: number) => Float32Array.from({ length: width * height }, (_, i) => value(i * (k + 1)));
const ours = () =>
  writeExr({
    width,
    height,
    channels: ['R', 'G', 'B', 'A', 'depth.Z'].map((name, k) => ({ name, type: 'float', data: plane(k) })),
  });

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'variscen-reference-'));
  await writeFile(join(folder, 'ours.exr'), ours());
});
afterAll(() => rm(folder, { recursive: true, force: true }));
/** As an independent writer saves it. */
async function saved(...how: string[]): Promise<Uint8Array> {
  const out = join(folder, 'saved.exr');
  await run('oiiotool', [join(folder, 'ours.exr'), ...how, '-o', out]);
  return new Uint8Array(await readFile(out));
}
async function layersOf(bytes: Uint8Array) {
  const read = (from: number, n: number) => Promise.resolve(bytes.subarray(from, from + n));
  return readExrLayers({ read, inflate: (packed) => inflateSync(packed) }, () => true, Infinity);
}

describe('a picture of others', () => {
  it.each([
    ['ZIP', ['--compression', 'zip']],
    ['ZIPS', ['--compression', 'zips']],
    ['nothing', ['--compression', 'none']],
    ['ZIP of halves', ['-d', 'half', '--compression', 'zip']],
  ])('packed as %s is there with all its layers', async (_, how) => {
    const { bytes, widthPx, heightPx, remarks } = readReference('wall.exr', await saved(...how));
    expect([widthPx, heightPx, remarks]).toEqual([width, height, []]);
    const { channels } = await layersOf(bytes);
    for (const [k, name] of ['R', 'G', 'B', 'A', 'depth.Z'].entries())
      expect(channels.get(name), name).toEqual(plane(k));
  });

  it.each([
    ['packed as PIZ', ['--compression', 'piz']],
    ['packed as RLE', ['--compression', 'rle']],
    ['in tiles', ['--tile', '16', '16', '--compression', 'zip']],
  ])('%s shows its picture, and says what is not shown', async (_, how) => {
    const { bytes, remarks } = readReference('wall.exr', await saved(...how));
    const { channels } = await layersOf(bytes);
    expect([...channels.keys()].sort()).toEqual(['A', 'B', 'G', 'R']);
    for (const [k, name] of ['R', 'G', 'B', 'A'].entries()) expect(channels.get(name), name).toEqual(plane(k));
    expect(remarks).toEqual(['Of “wall.exr” only the picture is shown, not depth.Z.']);
  });

  it('that holds no colours, or is torn, is refused by its name', async () => {
    const grey = await saved('--ch', 'depth.Z');
    expect(() => readReference('wall.exr', grey)).toThrow(/“wall.exr” has no channels R, G and B/);
    const whole = ours();
    for (const n of [4, 60, 300, whole.length - 1])
      expect(() => readReference('wall.exr', whole.subarray(0, n))).toThrow(/“wall.exr” is cut short or damaged/);
  });
});
