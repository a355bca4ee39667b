// Pictures of very many samples, and how far others are from them.
import { createHash } from 'node:crypto';
import { mkdir, readFile, rename, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { RenderSettings } from '@variscen/engine';
import { kernelModule } from '@variscen/engine/node';
import { type Shot, withEngine } from './shots.ts';

/** Renders to many samples once, and keeps the picture by the hash of all that it depends on. */
export async function reference(shot: Shot, settings: RenderSettings, samples: number): Promise<Float32Array> {
  const key = createHash('sha256');
  const folder = process.env['VARISCEN_BENCH_CACHE'] ?? join(tmpdir(), 'variscen-bench-references');
  key.update(
    JSON.stringify([
      settings,
      samples,
      shot.camera,
      shot.scene.materials,
      shot.scene.lights,
      shot.scene.instances.map((i) => [i.mesh, i.material, Array.from(i.matrix), i.mask]),
    ]),
  );
  for (const m of shot.scene.meshes) {
    key.update(m.positions);
    key.update(m.indices);
  }
  if (shot.scene.environment) key.update(shot.scene.environment.data);
  key.update(await kernelHash());
  const file = join(folder, `${key.digest('hex')}.f32`);
  const known = await readFile(file).catch(() => undefined);
  if (known) return new Float32Array(known.buffer, known.byteOffset, known.length / 4).slice();
  console.error(`Making the reference of ${samples} samples; it is kept in ${folder}.`);
  const picture = await withEngine(2, shot, settings, async (e) => {
    await e.render({ camera: shot.camera, samples, samplesPerPass: 64 });
    return e.picture().rgba;
  });
  await mkdir(folder, { recursive: true });
  await writeFile(`${file}.part`, new Uint8Array(picture.buffer));
  await rename(`${file}.part`, file);
  return picture;
}
/** The reference is what the integrator converges to: it changes with the engine's exports, not with its speed. */
async function kernelHash(): Promise<string> {
  return WebAssembly.Module.exports(await kernelModule())
    .map((e) => e.name)
    .sort()
    .join();
}

/**
 * Relative mean squared error over pixels and channels (Rousselle et al. 2011): squared difference over squared
 * reference + 0.01. usual: without the thousandth of the pixels that is farthest off. A few pixels that a rare bright
 * path met make up most of the whole, so that two seeds differ by a third in it.
 */
export function relativeErrors(
  picture: ArrayLike<number>,
  stride: number,
  truth: Float32Array,
): { readonly whole: number; readonly usual: number } {
  const n = truth.length / 4;
  const errors = new Float64Array(n);
  for (let i = 0; i < n; i++)
    for (let c = 0; c < 3; c++) {
      const t = truth[i * 4 + c]!;
      const d = picture[i * stride + c]! - t;
      errors[i]! += (d * d) / (t * t + 0.01) / 3;
    }
  const sorted = errors.sort();
  const most = Math.floor(n * 0.999);
  const sum = (to: number) => {
    let all = 0;
    for (let i = 0; i < to; i++) all += sorted[i]!;
    return all / to;
  };
  return { whole: sum(n), usual: sum(most) };
}
export const relativeError = (picture: ArrayLike<number>, stride: number, truth: Float32Array): number =>
  relativeErrors(picture, stride, truth).whole;
