// What is loaded of a scene, by what was measured, and how much longer a picture takes where there is no room for it
// all.
import type { SceneDocument } from '../scene/index.ts';
import { type CullEvidence, finerThan, textureBytesLookedUp } from './evidence.ts';
import { reachedMeshes } from './pieces.ts';

/** What rays of a measurement came to, of meshes in pieces and textures in levels, bytes in the engine's memory. */
export interface PartsReached {
  readonly widthPx: number;
  readonly heightPx: number;
  readonly meshBytes: number;
  /** In a picture of this size, in one twice as large, and so on. */
  readonly textureBytes: readonly number[];
}

/** Pictures are at most so many times doubled from what is measured. */
const DOUBLINGS = 8;
/**
 * A picture's rays, which are more, come to more pieces than those of the measurement: on the heavy demo to 1.6 times
 * as much at 1920 × 1080 with 8 samples (115 and 71 MB).
 */
const MORE_THAN_MEASURED = 2;

/** Null where nothing is known of pieces. */
export function partsReached(document: Pick<SceneDocument, 'textures'>, e: CullEvidence): PartsReached | null {
  if (!e.pieces) return null;
  const { widthPx, heightPx } = e;
  const times = Array.from({ length: DOUBLINGS + 1 }, (_, doublings) => 2 ** doublings);
  return {
    widthPx,
    heightPx,
    meshBytes: [...reachedMeshes(e.pieces).values()].reduce((sum, m) => sum + m.bytes, 0),
    textureBytes: times.map((n) => textureBytesLookedUp(document, e, { widthPx: widthPx * n, heightPx: heightPx * n })),
  };
}
/** At most about so many bytes are needed together for a picture of a size. */
export function partsNeeded(
  reached: PartsReached,
  size: { readonly widthPx: number; readonly heightPx: number },
): number {
  const doublings = Math.min(finerThan(reached, size), DOUBLINGS);
  return reached.meshBytes * MORE_THAN_MEASURED + reached.textureBytes[doublings]!;
}

/**
 * Needed for room, and how many times as long a picture took (`bench -- cull`, town: with three quarters, half and a
 * third of what is met in memory).
 */
const MEASURED_TIMES: readonly (readonly [needed: number, times: number])[] = [
  [1, 1],
  [4 / 3, 1.8],
  [2, 2],
  [3, 2.7],
];
/**
 * About how many times as long a picture takes, since what it needs is loaded in turns; 1 where there is room for it.
 */
export function slowerInTurns(neededBytes: number, roomBytes: number): number {
  const needed = neededBytes / Math.max(1, roomBytes);
  if (needed <= 1) return 1;
  const after = MEASURED_TIMES.findIndex(([x]) => x >= needed);
  const end = after < 0 ? MEASURED_TIMES.length - 1 : after; // beyond what was measured it goes on as at its end
  const [[x0, y0], [x1, y1]] = [MEASURED_TIMES[end - 1]!, MEASURED_TIMES[end]!];
  return y0 + ((needed - x0) / (x1 - x0)) * (y1 - y0);
}
