// From a rendered film to what is delivered: denoised, drawn where the look says so, with its layers.
import type { Profile } from '@variscen/core/plan';
import { type PlatePicture, underlaid } from '@variscen/core/environment';
import { type CameraSettings, croppedPx, depthRangeM } from '@variscen/core/scene';
import { caughtLight, uncaught } from './caught.ts';
import type { Selection } from './selection.ts';
import type { Engine } from './engine.ts';
import { type LayerChannel, exrLayers } from './exrLayers.ts';
import { inked } from './inked.ts';
import { type LeftOutReport, leftOutReport } from './leftOut.ts';

export interface Finished {
  /** r, g, b in nits and coverage a pixel. */
  readonly film: Float32Array;
  readonly channels: readonly LayerChannel[];
  /** Samples a pixel: of the tile that took most, and on the average. */
  readonly samples: { readonly most: number; readonly mean: number };
  readonly metadata: Readonly<Record<string, string>>;
  /** What is left out, and what that cost at most; absent where nothing is. */
  readonly leftOut?: LeftOutReport;
}

/** The frame that a picture is of, or a part of. */
function frameOf({ width, height }: { readonly width: number; readonly height: number }, camera: CameraSettings) {
  const { crop } = camera;
  const widthPx = crop ? Math.round((width * 100) / (crop.right - crop.left)) : width;
  const heightPx = crop ? Math.round((height * 100) / (crop.bottom - crop.top)) : height;
  const part = croppedPx({ widthPx, heightPx }, crop);
  return { widthPx, heightPx, part: { ...part, widthPx: width, heightPx: height } };
}

export interface FinishHow {
  readonly signal?: AbortSignal | undefined;
  /** What the selection's plate shows. */
  readonly plate?: PlatePicture | undefined;
  /**
   * The film is copied, so that more can be added to it. Without, it is taken where it lies: the picture lies in the
   * engine's memory, and is gone when it is closed.
   */
  readonly keepFilm?: boolean;
  /** Light groups are left as they were traced. */
  readonly leavesGroups?: boolean;
}

/** @throws EngineError CANCELLED */
export async function finish(
  engine: Engine,
  s: Selection,
  profile: Profile,
  camera: CameraSettings,
  { signal, plate, keepFilm = false, leavesGroups = false }: FinishHow = {},
): Promise<Finished> {
  const denoised = profile.denoise > 0 ? await engine.denoise(signal, !leavesGroups) : undefined;
  const picture = keepFilm ? engine.picture() : engine.takePicture();
  const traced = picture.rgba;
  const smooth = denoised
    ? traced.map((x, i) => (i % 4 === 3 ? x : x + (denoised.rgb[(i >>> 2) * 3 + (i & 3)]! - x) * profile.denoise))
    : traced;
  const drawn = s.inked.length ? inked(picture, smooth, s.inked) : smooth;
  const frame = frameOf(picture, camera);
  const under = (film: Float32Array, open?: Float32Array) =>
    plate && s.plate ? underlaid(film, frame.part, frame, plate, s.plate.strength, open) : film;
  const { caught, behind } = picture.planes;
  const cleanCaught = denoised?.caught;
  if (cleanCaught && caught) blendInto(cleanCaught, caught, profile.denoise);
  const light = caughtLight(picture, cleanCaught);
  const without = (shown: Float32Array, on = light) =>
    on && behind ? uncaught(shown, on, behind) : { film: shown, open: undefined };
  const seen = without(drawn);
  const film = under(seen.film, seen.open);
  const groups = picture.planes.groups;
  const clean = denoised?.groups;
  if (groups && clean) blendInto(clean, groups, profile.denoise);
  const leftOut = leftOutReport(picture, engine.leftOut());
  return {
    film,
    samples: samplesIn(picture.samples),
    ...(leftOut && { leftOut }),
    ...exrLayers(picture, {
      ...(film !== traced && { delivered: film, traced: without(traced, caughtLight(picture)).film }),
      aovs: profile.aovs,
      floatAovs: profile.floatAovs,
      type: profile.files.exr?.type ?? 'half',
      depthRangeM: depthRangeM(camera),
      objects: s.instances.map((i) => i.object ?? i.name),
      materials: s.materials.map((m) => m.name ?? ''),
      lightGroups: s.lightGroups,
      writtenGroups: profile.lightGroups,
      ...(clean && { deliveredGroups: clean }),
      ...(light && { caught: light }),
    }),
  };
}

function samplesIn(counts: Float32Array): Finished['samples'] {
  let most = 0;
  let sum = 0;
  for (const n of counts) {
    most = Math.max(most, n);
    sum += n;
  }
  return { most, mean: sum / counts.length };
}

/** As much of what is denoised as is asked for, in its place. */
function blendInto(clean: Float32Array, traced: Float32Array, share: number): void {
  for (let i = 0; i < clean.length; i++) {
    const x = traced[i]!;
    clean[i] = x + (clean[i]! - x) * share;
  }
}
