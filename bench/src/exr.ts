// What it takes to write a finished picture: packing by level of compression, and a whole file by threads. On the demo,
// with the layers of a Final.
import { mkdtemp, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { deflateSync } from 'node:zlib';
import { type ExrImage, exrBlockCount, exrBlockData, exrFiltered } from '@variscen/core/image';
import { PROFILES } from '@variscen/core/plan';
import { engineCamera, finish, settingsOf } from '@variscen/engine';
import { openNodeEngine } from '@variscen/engine/node';
import { ExrFiles } from '@variscen/server/encode';
import { openDemo } from './demoScene.ts';
import type { Emit } from './figure.ts';

const WIDTH = 960;
const HEIGHT = 540;
const LEVELS = [1, 4, 6, 9];
/** That files are written at. */
const LEVEL = 4;
const FULL = { width: 1920, height: 1080, samples: 4 } as const;

export async function exrSuite(emit: Emit): Promise<void> {
  encode(await demoPicture(FULL), emit);
  const image = await demoPicture({ width: WIDTH, height: HEIGHT, samples: 16 });
  const megapixels = (WIDTH * HEIGHT) / 1e6;
  emit({ name: 'channels', value: image.channels.length, unit: 'channels' });
  const gathered = timed(() => Array.from({ length: exrBlockCount(image) }, (_, block) => exrFiltered(image, block)));
  emit({ name: 'gather', value: gathered.seconds / megapixels, unit: 's a megapixel' });
  const rawBytes = gathered.value.reduce((sum, lines) => sum + lines.length, 0);
  let at4 = { seconds: NaN, bytes: NaN };
  for (const level of [4, ...LEVELS.filter((l) => l !== 4)]) {
    const packed = timed(() =>
      gathered.value.reduce(
        (sum, filtered) => sum + Math.min(filtered.length, deflateSync(filtered, { level }).length),
        0,
      ),
    );
    if (level === 4) at4 = { seconds: packed.seconds, bytes: packed.value };
    emit({
      name: `pack-level-${level}`,
      value: packed.seconds / megapixels,
      unit: 's a megapixel',
      ratio: packed.seconds / at4.seconds,
      of: 'level 4',
    });
    emit({
      name: `bytes-level-${level}`,
      value: packed.value / rawBytes,
      unit: 'of the raw bytes',
      ratio: packed.value / at4.bytes,
      of: 'level 4',
    });
  }
  await filesByThreads(image, emit);
}

/** The whole way from planes to packed blocks, beside what zlib alone takes of it. */
function encode(image: ExrImage, emit: Emit): void {
  let zlibSeconds = 0;
  const deflate = (bytes: Uint8Array) => {
    const packed = timed(() => deflateSync(bytes, { level: LEVEL }));
    zlibSeconds += packed.seconds;
    return packed.value;
  };
  const { seconds } = timed(() => {
    for (let block = 0; block < exrBlockCount(image); block++)
      exrBlockData(image, block, deflate(exrFiltered(image, block)));
  });
  emit({
    name: `encode, ${image.channels.length} channels at ${image.width} × ${image.height}, one thread`,
    value: seconds,
    unit: 's',
    ratio: seconds / zlibSeconds,
    of: 'zlib alone',
  });
}

async function filesByThreads(image: ExrImage, emit: Emit): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'variscen-exr-'));
  try {
    for (const threads of [1, 2]) {
      const files = new ExrFiles(threads);
      const path = join(folder, `${threads}.exr`);
      const began = performance.now();
      await files.write(path, image);
      const seconds = (performance.now() - began) / 1000;
      await files.close();
      emit({
        name: `file-${threads}-threads`,
        value: seconds,
        unit: `s for ${((await stat(path)).size / 1e6).toFixed(0)} MB`,
      });
    }
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

async function demoPicture({
  width,
  height,
  samples,
}: {
  readonly width: number;
  readonly height: number;
  readonly samples: number;
}): Promise<ExrImage> {
  const demo = await openDemo('light');
  const camera = { ...demo.cameras[0]!, widthPx: width, heightPx: height };
  const { scene, selection } = await demo.scene(['Paper lanterns', 'Clear night'], camera);
  const profile = { ...PROFILES[2]!, samples, noise: null };
  const engine = await openNodeEngine(2);
  try {
    await engine.load(scene, settingsOf(profile, { widthPx: width, heightPx: height }, selection), 2 ** 31);
    await engine.render({ camera: engineCamera(camera), samples: profile.samples });
    const { channels, metadata } = await finish(engine, selection, profile, camera);
    return { width, height, channels, metadata };
  } finally {
    await engine.close();
  }
}

function timed<T>(work: () => T): { seconds: number; value: T } {
  const began = performance.now();
  const value = work();
  return { seconds: (performance.now() - began) / 1000, value };
}
