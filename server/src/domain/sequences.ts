// From cells to pictures: one, or one for each frame of the camera's sequence.
import { randomUUID } from 'node:crypto';
import { AppError, type PlanRequest, type Project } from '@variscen/contract';
import { picturesAt, sayFrames } from '@variscen/core/scene';
import { type PictureRef, cellKey, pictureKey } from '../work/looksTasks.ts';

/** Of one plan. */
const MOST_PICTURES = 10_000;

/**
 * Camera by camera in the order in which each is named first, cell by cell, each picture once, frames ascending:
 * pictures of one camera need the same pieces of meshes and levels of textures, which lie ready when they follow one
 * another.
 * @throws AppError where a cell or a frame is not there
 */
export function picturesOf(p: Project, cells: PlanRequest['cells']): PictureRef[] {
  const cameras = new Map(p.cameras.map((c) => [c.id, c]));
  const variants = new Set(p.variants.map((v) => v.id));
  const pictures = new Map<string, PictureRef>();
  for (const { cameraId, variantId, frames } of byCamera(cells)) {
    const camera = cameras.get(cameraId);
    if (!camera || !variants.has(variantId)) throw new AppError('NOT_FOUND', 'A selected cell no longer exists.');
    for (const frame of chosen(camera, frames)) {
      const ref = { cameraId, variantId, frame };
      pictures.set(pictureKey(ref), ref);
    }
    if (pictures.size > MOST_PICTURES)
      throw new AppError(
        'INVALID',
        `These are more than ${MOST_PICTURES.toLocaleString('en')} pictures, which is the most of one plan.`,
        'Select fewer cells, or give the cameras fewer frames.',
      );
  }
  return [...pictures.values()];
}

function byCamera<T extends { readonly cameraId: string }>(cells: readonly T[]): T[] {
  const groups = new Map<string, T[]>();
  for (const cell of cells) {
    const group = groups.get(cell.cameraId);
    if (group) group.push(cell);
    else groups.set(cell.cameraId, [cell]);
  }
  return [...groups.values()].flat();
}

function chosen(
  { name, handling }: Project['cameras'][number],
  frames: readonly number[] | undefined,
): readonly (number | null)[] {
  const all = picturesAt(handling.frames);
  if (!frames) return all;
  const has = new Set(all);
  const missing = frames.filter((f) => !has.has(f));
  if (missing.length)
    throw new AppError('INVALID', `“${name}” does not render frame ${sayFrames(missing.sort((a, b) => a - b))}.`);
  return [...frames].sort((a, b) => a - b);
}

/** One id for the traces of one cell's sequence, or of cells whose pictures are traced together. */
export function sequenceIds(groups: readonly { readonly cells: readonly PictureRef[] }[]): (string | null)[] {
  const ids = new Map<string, string>();
  return groups.map(({ cells }) => {
    if (cells[0]!.frame === null) return null;
    const key = cells.map(cellKey).join();
    const id = ids.get(key) ?? randomUUID();
    ids.set(key, id);
    return id;
  });
}
