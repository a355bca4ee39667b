// What each way of sampling is worth after the same time.
import type { Engine, RenderSettings } from '@variscen/engine';
import { openDemo } from './demoScene.ts';
import type { Emit } from './figure.ts';
import { CLOSE, WIDE, basics, leastInTurn, shotOf, withEngine } from './shots.ts';
import { builtKernel } from './builtKernel.ts';
import { reference, relativeErrors } from './reference.ts';

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
