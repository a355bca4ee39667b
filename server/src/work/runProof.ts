// Traces a small picture of what a camera leaves of the scene, then one of all of it, at the same seeds, and holds them
// against each other.
import { availableParallelism } from 'node:os';
import {
  type Proof,
  type ProofSide,
  type TwiceRendered,
  packProof,
  pairedDifference,
  uncut,
} from '@variscen/core/cull';
import { gradeOf } from '@variscen/core/looks';
import { luminanceAt, toDisplay, unpackLut } from '@variscen/core/image';
import { type SceneDocument, poseFor } from '@variscen/core/scene';
import {
  EngineError,
  type Picture,
  type RenderSettings,
  type Selection,
  attach,
  doubtOf,
  engineCamera,
  leftOutReport,
  select,
  settingsOf,
} from '@variscen/engine';
import { openNodeEngine } from '@variscen/engine/node';
import { namedFor } from '../files/cullPlans.ts';
import { peakBytes, resetPeak } from '../files/peakMemory.ts';
import { sceneSources } from '../files/sceneSources.ts';
import type { StoredParts } from '../files/storedParts.ts';
import { writeFlushed } from '../files/writeFlushed.ts';
import { LOOKED_AT, openParts, sizeOf } from './lookedAt.ts';
import { openScene } from './openScene.ts';
import type { ProofTask } from './tasks.ts';

const WIDTH_PX = 512;
/** In two halves, whose noise is independent: the second has samples that are far from those of the first. */
const SAMPLES = 32;
const SECOND_FROM = 4096;
const SAMPLES_A_PASS = 4;

interface Side extends ProofSide {
  readonly picture: Picture;
  readonly halves: TwiceRendered;
  readonly leftOut: readonly string[];
}

export async function runProof(t: ProofTask, onProgress: (fraction: number) => void): Promise<{ bytes: number }> {
  const { asset, document, motion, state } = await openScene(t);
  const parts = await openParts(t.folder, t.mostPartsBytes);
  const prover = new Prover(document, asset, parts, t.budgetBytes);

  // 1. Both in turn; the smaller first, so that what the other held is not in its memory
  const named = await namedFor(t.camera, asset);
  const cut = select(poseFor(document, motion, t.camera), state, false, named);
  const culled = await prover.take(cut, true, (f) => onProgress(f / 2));
  const all = select(poseFor(document, motion, uncut(t.camera)), state);
  const whole = await prover.whole(all, (f) => onProgress(0.5 + f / 2));
  await parts.trim();

  // 2. Held against each other
  const grade = gradeOf(state);
  const lut = grade.lut ? unpackLut(await asset(grade.lut.hash), grade.lut) : undefined;
  const shown = ({ picture }: Side) => toDisplay(picture.rgba, grade, lut);
  const bytes = packProof({ ...compared(whole, culled), wholeRgb: shown(whole), culledRgb: shown(culled) });
  await writeFlushed(t.file, bytes);
  return { bytes: bytes.length };
}

class Prover {
  constructor(
    private readonly document: SceneDocument,
    private readonly asset: (hash: string) => Promise<Uint8Array>,
    private readonly parts: StoredParts,
    private readonly budgetBytes: number,
  ) {}

  /** All of it in memory; where that does not fit, as it comes. */
  async whole(selection: Selection, onProgress: (fraction: number) => void): Promise<Side> {
    try {
      return await this.take(selection, false, onProgress);
    } catch (e) {
      if (!(e instanceof EngineError) || e.code !== 'OUT_OF_MEMORY') throw e;
      return this.take(selection, true, onProgress);
    }
  }
  async take(selection: Selection, isInPieces: boolean, onProgress: (fraction: number) => void): Promise<Side> {
    const { camera } = selection.pose.now;
    const size = sizeOf(camera, WIDTH_PX);
    const engine = await openNodeEngine(availableParallelism());
    const taken = this.parts.forTrace();
    try {
      const sources = sceneSources(this.document, this.asset);
      const inPieces = taken.over(sources, this.document.meshes);
      await resetPeak();
      const began = performance.now();
      const scene = isInPieces
        ? await attach(selection, inPieces, LOOKED_AT.displacement, size.heightPx)
        : await attach(selection, sources, LOOKED_AT.displacement, size.heightPx);
      await taken.close();
      const settings: RenderSettings = settingsOf(LOOKED_AT, size, selection);
      await engine.load(scene, settings, this.budgetBytes);
      const loadS = (performance.now() - began) / 1000;
      const half = (from: number, done: number) =>
        engine.render(
          {
            camera: engineCamera(camera),
            samples: SAMPLES / 2,
            samplesPerPass: SAMPLES_A_PASS,
            onProgress: (p) => onProgress(done + p.fraction / 2),
          },
          from,
        );
      const { seconds: firstS } = await half(0, 0);
      const first = luminanceOf(engine.picture());
      const { seconds: secondS } = await half(SECOND_FROM, 0.5);
      const picture = engine.picture();
      const second = luminanceOf(picture).map((both, i) => 2 * both - first[i]!);
      return {
        picture,
        halves: { first, second },
        leftOut: engine.leftOut(),
        objects: selection.verdicts.filter((v) => v.keep).length,
        loadS,
        traceS: firstS + secondS,
        engineBytes: Object.values(engine.takenBytes()).reduce((a, b) => a + b, 0),
        peakBytes: await peakBytes(),
        isInPieces,
      };
    } finally {
      await taken.close();
      await engine.close();
    }
  }
}

function compared(whole: Side, culled: Side): Omit<Proof, 'wholeRgb' | 'culledRgb'> {
  const { width: widthPx, height: heightPx } = whole.picture;
  const pixels = widthPx * heightPx;
  const [a, b] = [whole.picture.rgba, culled.picture.rgba];
  const nits = new Float32Array(pixels);
  const difference = new Float32Array(pixels);
  let differingPixels = 0;
  let light = 0;
  let net = 0;
  let absolute = 0;
  let squares = 0;
  for (let i = 0; i < pixels; i++) {
    const own = luminanceAt(a, i * 4);
    const d = luminanceAt(b, i * 4) - own;
    nits[i] = own;
    difference[i] = d;
    light += own;
    net += d;
    absolute += Math.abs(d);
    squares += d * d;
    differingPixels += [0, 1, 2, 3].some((c) => a[i * 4 + c] !== b[i * 4 + c]) ? 1 : 0;
  }
  const shareOf = (nits: number) => (light > 0 ? nits / light : 0);
  const doubt = doubtOf(culled.picture);
  const paired = pairedDifference(whole.halves, culled.halves);
  const ofMean = (nits: number) => shareOf(nits * pixels);
  return {
    widthPx,
    heightPx,
    samples: SAMPLES,
    meanNits: light / pixels,
    whole: sideOf(whole),
    culled: sideOf(culled),
    differingPixels,
    netShare: shareOf(net),
    absoluteShare: shareOf(absolute),
    noiseShare: shareOf(Math.sqrt(squares)), // as if each pixel's difference were by chance
    pixelShare: ofMean(paired.difference),
    chanceShare: ofMean(paired.chance),
    finalNoiseShare: ofMean(paired.noise * Math.sqrt(SAMPLES / 2 / LOOKED_AT.samples)),
    atMostShare: leftOutReport(culled.picture, culled.leftOut)?.atMostShare ?? null,
    leftOut: culled.leftOut,
    nits,
    difference,
    doubt: doubt?.nits ?? new Float32Array(pixels),
    object: doubt?.object ?? new Int32Array(pixels).fill(-1),
  };
}
function luminanceOf({ rgba, width, height }: Picture): Float32Array {
  return Float32Array.from({ length: width * height }, (_, i) => luminanceAt(rgba, i * 4));
}
const sideOf = ({ picture: _, halves: __, leftOut: ___, ...side }: Side): ProofSide => side;
