// Whole renders of the full demo: paths a second and where the time goes, threads, denoiser, evidence.
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdir, readFile, rename, writeFile } from 'node:fs/promises';
import { Session } from 'node:inspector/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import {
  Engine,
  type EngineCamera,
  type EngineScene,
  type RenderSettings,
  engineCamera,
  spawnInline,
} from '@variscen/engine';
import { kernelModule, openNodeEngine, spawnNodeThread } from '@variscen/engine/node';
import { type Demo, openDemo } from './demoScene.ts';
import type { Emit } from './figure.ts';

const LOOK = ['Paper lanterns', 'Clear night'];
const WIDE = 'Stall from the lane';
const CLOSE = 'Counter, close';
const median = (x: readonly number[]): number => [...x].sort((a, b) => a - b)[x.length >> 1]!;

interface Shot {
  readonly scene: EngineScene;
  readonly camera: EngineCamera;
}
async function shotOf(demo: Demo, name: string): Promise<Shot> {
  const settings = demo.cameras.find((c) => c.name === name)!;
  return { scene: (await demo.scene(LOOK, settings)).scene, camera: engineCamera(settings) };
}
const basics = (widthPx: number, heightPx: number, extra: Partial<RenderSettings> = {}): RenderSettings => ({
  widthPx,
  heightPx,
  maxBounces: 6,
  clampIndirect: 0,
  seed: 1,
  ...extra,
});
async function withEngine<T>(
  threads: number,
  shot: Shot,
  settings: RenderSettings,
  work: (e: Engine) => Promise<T>,
  module?: WebAssembly.Module,
): Promise<T> {
  const engine = module
    ? await Engine.open({ module, spawn: spawnNodeThread, threads })
    : await openNodeEngine(threads);
  try {
    await engine.load(shot.scene, settings);
    return await work(engine);
  } finally {
    await engine.close();
  }
}

/**
 * Least times of two kinds of short renders that go in turn: others on the machine slow the one or the other as it
 * happens.
 */
export async function leastInTurn(
  turns: number,
  one: () => Promise<number>,
  two: () => Promise<number>,
): Promise<readonly [number, number]> {
  await one();
  await two();
  let a = Infinity;
  let b = Infinity;
  for (let k = 0; k < turns; k++) {
    a = Math.min(a, await one());
    b = Math.min(b, await two());
  }
  return [a, b];
}

export async function threadsSuite(emit: Emit): Promise<void> {
  const shot = await shotOf(await openDemo('full'), WIDE);
  const settings = basics(640, 360);
  await withEngine(1, shot, settings, (one) =>
    withEngine(2, shot, settings, async (two) => {
      const run = async (e: Engine) => {
        e.clearFilm();
        return (await e.render({ camera: shot.camera, samples: 4 })).seconds;
      };
      const [a, b] = await leastInTurn(
        15,
        () => run(one),
        () => run(two),
      );
      const ratio = a / b;
      emit({ name: 'two-threads', value: ratio, unit: 'times as fast', ratio, of: 'one thread' });
    }),
  );
}

export async function pathsSuite(emit: Emit): Promise<void> {
  const demo = await openDemo('full');
  for (const [label, name] of [
    ['wide', WIDE],
    ['close', CLOSE],
  ] as const) {
    const shot = await shotOf(demo, name);
    await withEngine(1, shot, basics(640, 360), async (e) => {
      await e.render({ camera: shot.camera, samples: 4 });
      e.clearFilm();
      const s = await e.render({ camera: shot.camera, samples: 12 });
      emit({ name: `${label}-paths`, value: s.paths / s.seconds, unit: 'paths/s/core' });
      emit({ name: `${label}-rays`, value: s.rays / s.seconds, unit: 'rays/s/core' });
    });
    const shares = await stageShares(shot);
    const of = (stage: string) => shares.get(stage) ?? 0;
    for (const [stage] of STAGES)
      emit({ name: `${label}-${stage}`, value: of(stage) * 100, unit: "% of the kernel's time" });
    emit({
      name: `${label}-shading-sampling-film`,
      value: (of('shading') + of('sampling') + of('film')) * 100,
      unit: "% of the kernel's time",
    });
  }
}

/** Which part of a render's time functions of the kernel's files take. */
const STAGES: readonly (readonly [string, RegExp])[] = [
  ['trace', /kernel\/(traverse|packets|alone|boxes|alpha)\//],
  ['lights', /kernel\/(lights|environment|fog)\//],
  ['sampling', /kernel\/sampling\//],
  ['film', /kernel\/film\//],
  ['shading', /kernel\//],
];
async function builtKernel(flag: string, name: string): Promise<WebAssembly.Module> {
  execFileSync(process.execPath, [fileURLToPath(new URL('../../scripts/build-kernel.mjs', import.meta.url)), flag], {
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  return WebAssembly.compile(await readFile(new URL(`../../engine/dist/${name}`, import.meta.url)));
}
/** Samples the one thread that renders, in a kernel that is optimised but has its functions' names. */
async function stageShares(shot: Shot): Promise<Map<string, number>> {
  const module = await builtKernel('--named', 'kernel.named.wasm');
  const engine = await Engine.open({ module, spawn: spawnInline, threads: 1 });
  const session = new Session();
  const times = new Map<string, number>();
  session.connect();
  try {
    await engine.load(shot.scene, basics(640, 360));
    await engine.render({ camera: shot.camera, samples: 1 });
    await session.post('Profiler.enable');
    await session.post('Profiler.start');
    await engine.render({ camera: shot.camera, samples: 8 }, 1);
    const { profile } = await session.post('Profiler.stop');
    const names = new Map(profile.nodes.map((n) => [n.id, n.callFrame.functionName]));
    profile.samples?.forEach((id, i) => {
      const stage = STAGES.find(([, files]) => files.test(names.get(id) ?? ''))?.[0];
      if (stage) times.set(stage, (times.get(stage) ?? 0) + (profile.timeDeltas?.[i] ?? 0));
    });
  } finally {
    session.disconnect();
    await engine.close();
  }
  const all = [...times.values()].reduce((a, b) => a + b, 0);
  return new Map([...times].map(([stage, t]) => [stage, t / all]));
}

export async function evidenceSuite(emit: Emit): Promise<void> {
  const shot = await shotOf(await openDemo('full'), WIDE);
  const ratios: number[] = [];
  await withEngine(1, shot, basics(640, 360), (off) =>
    withEngine(1, shot, basics(640, 360, { evidence: { finer: 1 } }), async (on) => {
      const run = async (e: Engine) => {
        e.clearFilm();
        return (await e.render({ camera: shot.camera, samples: 8 })).seconds;
      };
      await run(off);
      await run(on);
      for (let k = 0; k < 5; k++) {
        const a = await run(off);
        const b = await run(on);
        ratios.push(b / a);
      }
      emit({
        name: 'overhead',
        value: median(ratios),
        unit: 'times the time',
        ratio: median(ratios),
        of: 'evidence off',
      });
    }),
  );
}

/** Renders to many samples once, and keeps the picture by the hash of all that it depends on. */
async function reference(shot: Shot, settings: RenderSettings, samples: number): Promise<Float32Array> {
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

export async function denoiseSuite(emit: Emit): Promise<void> {
  const demo = await openDemo('full');
  for (const [label, name] of [
    ['close', CLOSE],
    ['wide', WIDE],
  ] as const) {
    const shot = await shotOf(demo, name);
    const settings = basics(480, 270);
    const truth = await reference(shot, { ...settings, seed: 99 }, Number(process.env['BENCH_REFERENCE'] ?? 2048));
    await withEngine(2, shot, { ...settings, denoise: true }, async (e) => {
      await e.render({ camera: shot.camera, samples: 32 });
      const raw32 = relativeError(e.picture().rgba, 4, truth);
      const denoised = relativeError((await e.denoise()).rgb, 3, truth);
      await e.render({ camera: shot.camera, samples: 480 }, 32);
      const raw512 = relativeError(e.picture().rgba, 4, truth);
      emit({ name: `${label}-raw32`, value: raw32, unit: 'relative mean squared error' });
      emit({
        name: `${label}-denoised32-vs-raw512`,
        value: denoised,
        unit: 'relative mean squared error',
        ratio: denoised / raw512,
        of: '512 samples, not denoised',
      });
    });
  }
  const shot = await shotOf(demo, WIDE);
  await withEngine(2, shot, basics(1280, 720, { denoise: true }), async (e) => {
    const s = await e.render({ camera: shot.camera, samples: 8 });
    await e.denoise();
    const began = performance.now();
    await e.denoise();
    const seconds = (performance.now() - began) / 1000;
    const trace = s.seconds * 8;
    emit({
      name: 'cost',
      value: seconds,
      unit: 's at 1280 × 720',
      ratio: seconds / trace,
      of: 'a trace of 64 samples (eight times one of 8)',
    });
  });
}

/**
 * Errors after the time of 32 samples of the plain trace, means of three seeds: that trace, one with random numbers
 * instead of the sequence, one that picks lights by power alone (kernels built for this), one that leaves quiet tiles,
 * one that is denoised at its end. Speeds differ by half within minutes on a machine that others use, so the time is
 * not taken from a clock: what a sample costs is measured in turn with the plain one, and each gets as many as the time
 * is worth.
 */
export async function equalTimeSuite(emit: Emit): Promise<void> {
  const demo = await openDemo('full');
  const samples = 32;
  const seeds = [1, 2, 3];
  for (const [label, name] of [
    ['close', CLOSE],
    ['wide', WIDE],
  ] as const) {
    const shot = await shotOf(demo, name);
    const { camera } = shot;
    const settings = basics(480, 270);
    const truth = await reference(shot, { ...settings, seed: 99 }, Number(process.env['BENCH_REFERENCE'] ?? 2048));
    const errors = async (
      what: Partial<RenderSettings>,
      work: (e: Engine) => Promise<{ readonly rgb: ArrayLike<number>; readonly stride: number }>,
      module?: WebAssembly.Module,
    ) => {
      const all: { whole: number; usual: number }[] = [];
      for (const seed of seeds)
        all.push(
          await withEngine(
            2,
            shot,
            { ...settings, ...what, seed },
            async (e) => {
              const { rgb, stride } = await work(e);
              return relativeErrors(rgb, stride, truth);
            },
            module,
          ),
        );
      return {
        whole: all.reduce((t, x) => t + x.whole, 0) / all.length,
        usual: all.reduce((t, x) => t + x.usual, 0) / all.length,
      };
    };
    const traced = (n: number) => async (e: Engine) => {
      await e.render({ camera, samples: n });
      return { rgb: e.picture().rgba, stride: 4 };
    };
    const cost = (module: WebAssembly.Module) =>
      withEngine(2, shot, settings, (plain) =>
        withEngine(
          2,
          shot,
          settings,
          async (other) => {
            const run = async (e: Engine) => {
              e.clearFilm();
              return (await e.render({ camera, samples: 2 })).seconds;
            };
            const [a, b] = await leastInTurn(
              11,
              () => run(plain),
              () => run(other),
            );
            return b / a;
          },
          module,
        ),
      );
    const kernel = async (file: string) => {
      const module = await builtKernel('--without', file);
      const n = Math.round(samples / (await cost(module)));
      return { ...(await errors({}, traced(n), module)), of: `${n} samples` };
    };
    const tried: Record<
      string,
      () => Promise<{ readonly whole: number; readonly usual: number; readonly of: string }>
    > = {
      'random-numbers': () => kernel('kernel.no-sequence.wasm'),
      'lights-by-power': () => kernel('kernel.by-power.wasm'),
      'both-samples': () => kernel('kernel.both-samples.wasm'),
      'no-guide': () => kernel('kernel.no-guide.wasm'),
      adaptive: async () => ({
        ...(await errors({ noise: { threshold: 0.02, floorNits: 0.05 } }, async (e) => {
          // as many paths as the plain trace has
          for (let left = settings.widthPx * settings.heightPx * samples, at = 0; left > 0; at += 8) {
            const { paths } = await e.render({ camera, samples: 8 }, at);
            if (!paths) break;
            left -= paths;
          }
          return { rgb: e.picture().rgba, stride: 4 };
        })),
        of: 'as many paths',
      }),
      denoised: async () => {
        const n = await withEngine(2, shot, { ...settings, denoise: true }, async (e) => {
          const [sampleS, denoiseS] = await leastInTurn(
            5,
            async () => {
              e.clearFilm();
              return (await e.render({ camera, samples: 2 })).seconds / 2;
            },
            async () => {
              const began = performance.now();
              await e.denoise();
              return (performance.now() - began) / 1000;
            },
          );
          return Math.floor(samples - denoiseS / sampleS);
        });
        return {
          ...(await errors({ denoise: true }, async (e) => {
            await e.render({ camera, samples: n });
            return { rgb: (await e.denoise()).rgb, stride: 3 };
          })),
          of: `${n} samples`,
        };
      },
    };
    const plain = await errors({}, traced(samples));
    emit({ name: `${label}-plain`, value: plain.whole, unit: `relative mean squared error, ${samples} samples` });
    emit({
      name: `${label}-plain-usual-pixels`,
      value: plain.usual,
      unit: `relative mean squared error, ${samples} samples`,
    });
    for (const [what, work] of Object.entries(tried)) {
      if (!what.includes(process.env['BENCH_ONLY'] ?? '')) continue;
      const { whole, usual, of } = await work();
      emit({
        name: `${label}-${what}`,
        value: whole,
        unit: `relative mean squared error, ${of}`,
        ratio: whole / plain.whole,
        of: 'the plain trace',
      });
      emit({
        name: `${label}-${what}-usual-pixels`,
        value: usual,
        unit: `relative mean squared error, ${of}`,
        ratio: usual / plain.usual,
        of: 'the plain trace',
      });
    }
  }
}
