// Whole renders of the full demo: paths a second and where the time goes, threads, denoiser, evidence.
import { Session } from 'node:inspector/promises';
import { Engine, spawnInline } from '@variscen/engine';
import { openDemo } from './demoScene.ts';
import type { Emit } from './figure.ts';
import { CLOSE, type Shot, WIDE, basics, leastInTurn, shotOf, withEngine } from './shots.ts';
import { builtKernel } from './builtKernel.ts';
import { reference, relativeError } from './reference.ts';

const median = (x: readonly number[]): number => [...x].sort((a, b) => a - b)[x.length >> 1]!;
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
