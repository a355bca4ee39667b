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
const inflate = (packed: Uint8Array) => inflateSync(packed);
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
    const { bytes, widthPx, heightPx, remarks } = await readReference('wall.exr', await saved(...how), inflate);
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
    const { bytes, remarks } = await readReference('wall.exr', await saved(...how), inflate);
    const { channels } = await layersOf(bytes);
    expect([...channels.keys()].sort()).toEqual(['A', 'B', 'G', 'R']);
    for (const [k, name] of ['R', 'G', 'B', 'A'].entries()) expect(channels.get(name), name).toEqual(plane(k));
    expect(remarks).toEqual(['Of “wall.exr” only the picture is shown, not depth.Z.']);
  });

  it.each(['zip', 'piz'])('of other primaries has the same colours in ours (packed as %s)', async (packed) => {
    // linear Rec. 709 in ACEScg, whose white is another: the published matrix, and primaries AP1
    const toAp1 = '0.613097,0.339523,0.047379,0.070194,0.916354,0.013452,0.020616,0.109570,0.869815';
    const ap1 = '0.713,0.293,0.165,0.83,0.128,0.044,0.32168,0.33767';
    const there = ['--ccmatrix:transpose=1', toAp1, '--attrib:type=float[8]', 'chromaticities', ap1];
    const file = await saved('--ch', 'R,G,B', ...there, '--compression', packed);
    const { bytes, remarks } = await readReference('wall.exr', file, inflate);
    expect(remarks).toEqual(['“wall.exr” has other primaries than Rec. 709; its colours were converted.']);
    const { channels } = await layersOf(bytes);
    for (const [k, name] of ['R', 'G', 'B'].entries())
      channels.get(name)!.forEach((x, i) => expect(Math.abs(x - plane(k)[i]!), name).toBeLessThan(0.003));
  });

  it('without R, G and B shows its first layer of three, or one channel as grey, and says which', async () => {
    const inLayer = await readReference(
      'pass.exr',
      await saved('--chnames', 'key.R,key.G,key.B,key.A,depth.Z'),
      inflate,
    );
    const { channels } = await layersOf(inLayer.bytes);
    for (const [k, name] of ['R', 'G', 'B'].entries()) expect(channels.get(name), name).toEqual(plane(k));
    expect(inLayer.remarks).toEqual(['Of “pass.exr” only its layer “key” is shown, not depth.Z, key.A.']);
    const depth = await readReference('depth.exr', await saved('--ch', 'depth.Z'), inflate);
    const grey = (await layersOf(depth.bytes)).channels;
    for (const name of ['R', 'G', 'B']) expect(grey.get(name), name).toEqual(plane(4));
    expect(depth.remarks).toEqual([]);
  });

  it('that holds no colours packed as ours are not, or is torn, is refused by its name', async () => {
    const grey = await saved('--ch', 'depth.Z', '--compression', 'piz');
    await expect(readReference('wall.exr', grey, inflate)).rejects.toThrow(/“wall.exr” has no channels R, G and B/);
    const packed = await saved('--chnames', 'key.R,key.G,key.B,key.A,depth.Z', '--compression', 'zip');
    packed.fill(7, packed.length - 60);
    await expect(readReference('wall.exr', packed, inflate)).rejects.toThrow(/“wall.exr” is damaged/);
    const whole = ours();
    for (const n of [4, 60, 300, whole.length - 1])
      await expect(readReference('wall.exr', whole.subarray(0, n), inflate)).rejects.toThrow(
        /“wall.exr” is cut short or damaged/,
      );
  });
});
