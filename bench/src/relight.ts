// One trace for several lightings against a trace for each, at the same samples: how long it takes with loading,
// denoising and layers, and how noisy the pictures are.
import { PROFILES, type Profile } from '@variscen/core/plan';
import type { CameraSettings } from '@variscen/core/scene';
import {
  type EngineScene,
  type RenderSettings,
  type Selection,
  engineCamera,
  finish,
  relit,
  settingsOf,
} from '@variscen/engine';
import { openNodeEngine } from '@variscen/engine/node';
import { type Demo, openDemo } from './demoScene.ts';
import type { Emit } from './figure.ts';

const SKY = 'Clear night';
const LOOKS = [[SKY], ['Paper lanterns', SKY], ['Evening sun', SKY], ['Panel and lamp', SKY]];
const CAMERAS = ['Stall from the lane', 'Counter, close'];
/** Where time is measured, and, with fewer pixels, how far off pictures are. */
const TIMED = { widthPx: 480, heightPx: 270 };
const JUDGED = { widthPx: 160, heightPx: 90 };
const SAMPLES = 32;
const REFERENCE_SAMPLES = 512;
const THREADS = 2;
const PROFILE: Profile = { ...PROFILES[2]!, samples: SAMPLES, noise: null, timeLimitS: null, denoise: 1, aovs: [] };

interface Rendered {
  readonly seconds: number;
  /** Of each lighting as traced and as denoised. */
  readonly traced: readonly Float32Array[];
  readonly denoised: readonly Float32Array[];
}

export async function relightSuite(emit: Emit): Promise<void> {
  const demo = await openDemo('full');
  let shared = 0;
  let alone = 0;
  for (const camera of camerasOf(demo)) {
    shared += (await renderShared(demo, camera, TIMED)).seconds;
    for (const look of LOOKS) alone += (await renderAlone(demo, look, camera, TIMED)).seconds;
  }
  const pictures = CAMERAS.length * LOOKS.length;
  emit({ name: `relight, ${pictures} pictures`, value: shared, unit: 's', ratio: shared / alone, of: 'a trace each' });
  await errors(demo, emit);
}
const camerasOf = (demo: Demo) => CAMERAS.map((name) => demo.cameras.find((c) => c.name === name)!);

/** How far pictures are off, as traced and denoised, beside those of a trace each. */
async function errors(demo: Demo, emit: Emit): Promise<void> {
  const sums = { traced: [0, 0] as [number, number], denoised: [0, 0] as [number, number] };
  for (const camera of camerasOf(demo)) {
    const together = await renderShared(demo, camera, JUDGED);
    for (const [k, look] of LOOKS.entries()) {
      const own = await renderAlone(demo, look, camera, JUDGED);
      const truth = (await renderAlone(demo, look, camera, JUDGED, REFERENCE_SAMPLES)).traced[0]!;
      const told = (['traced', 'denoised'] as const).map((how) => {
        const [t, a] = [error(together[how][k]!, truth), error(own[how][0]!, truth)];
        sums[how][0] += t;
        sums[how][1] += a;
        return `${(t / a).toFixed(2)} ${how}`;
      });
      const [t, a] = [error(together.traced[k]!, truth), error(own.traced[0]!, truth)];
      const name = `error, ${camera.name}, ${look[0]!} (${told.join(', ')})`;
      emit({ name, value: t, unit: 'of usual pixels', ratio: t / a, of: 'its own trace' });
    }
  }
  const pictures = CAMERAS.length * LOOKS.length;
  for (const [how, [t, a]] of Object.entries(sums))
    emit({ name: `error, all, ${how}`, value: t / pictures, unit: 'usual', ratio: t / a, of: 'a trace each' });
}

type Size = typeof TIMED;
async function renderShared(demo: Demo, camera: CameraSettings, size: Size): Promise<Rendered> {
  const { states, shared } = demo.lightings(LOOKS, camera);
  const { selection, parts } = relit(shared, states, false);
  const settings = settingsOf(PROFILE, size, selection, parts);
  return render(await demo.attached(selection, camera), selection, camera, SAMPLES, settings);
}
async function renderAlone(
  demo: Demo,
  look: readonly string[],
  camera: CameraSettings,
  size: Size,
  samples = SAMPLES,
): Promise<Rendered> {
  const { selection, scene } = await demo.scene(look, camera);
  // the reference by other random numbers
  const settings = { ...settingsOf(PROFILE, size, selection), seed: samples === SAMPLES ? 1 : 7 };
  return render(scene, selection, camera, samples, settings);
}

async function render(
  scene: EngineScene,
  selection: Selection,
  camera: CameraSettings,
  samples: number,
  settings: RenderSettings,
): Promise<Rendered> {
  const { parts } = settings;
  const engine = await openNodeEngine(THREADS);
  const traced: Float32Array[] = [];
  const denoised: Float32Array[] = [];
  const began = performance.now();
  try {
    await engine.load(scene, settings);
    await engine.render({ camera: engineCamera(camera), samples, samplesPerPass: samples });
    let seconds = performance.now() - began;
    for (let k = 0; k < (parts?.mixes.length ?? 1); k++) {
      const from = performance.now();
      if (parts) engine.mix(k);
      const finished = await finish(engine, selection, PROFILE, camera, { keepFilm: true });
      seconds += performance.now() - from;
      denoised.push(finished.film);
      traced.push(engine.picture().rgba);
    }
    return { seconds: seconds / 1000, traced, denoised };
  } finally {
    await engine.close();
  }
}

/** Of pixels counted so many are left out: those that are farthest off met a rare bright path. */
const UNUSUAL = 0.001;
const FLOOR = 0.01;
/** Relative mean squared error of usual pixels. */
function error(film: Float32Array, truth: Float32Array): number {
  const off: number[] = [];
  for (let i = 0; i < film.length; i += 4) {
    let sum = 0;
    for (let c = i; c < i + 3; c++) sum += (film[c]! - truth[c]!) ** 2 / (truth[c]! ** 2 + FLOOR);
    off.push(sum / 3);
  }
  off.sort((a, b) => a - b);
  const usual = off.slice(0, Math.round(off.length * (1 - UNUSUAL)));
  return usual.reduce((a, b) => a + b, 0) / usual.length;
}
