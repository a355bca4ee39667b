// What comes into the frame between the frames of a sequence that are measured: no ray of them tells of it.
import { type CameraSettings, type SceneDocument, determinant, placements, worldMatrices } from '../scene/index.ts';
import { boxOf } from './box.ts';
import { framePlanes, isOutsideFrame } from './rules/outsideFrame.ts';

/** A scene and a camera as they stand at a frame. */
export interface AtFrame {
  readonly document: SceneDocument;
  readonly camera: CameraSettings;
}

/** Paths of objects whose box is at least partly in the frame; displacement is not looked at. */
export function inFrame({ document, camera }: AtFrame): Set<string> {
  const world = worldMatrices(document.nodes);
  const placed = placements(document, world);
  const planes = framePlanes(camera, 0);
  const paths = document.nodes.flatMap(({ parts, path }, node) => {
    if (!parts || determinant(placed[node]!) === 0) return [];
    return isOutsideFrame(boxOf(document, node, world, placed, 0), planes) ? [] : [path];
  });
  return new Set(paths);
}

/**
 * Paths of objects that are in the frame at some of all frames, and at none of those that are measured.
 * @param measured some of them
 */
export function entering(all: Iterable<AtFrame>, measured: Iterable<AtFrame>): string[] {
  const known = new Set<string>();
  for (const at of measured) for (const path of inFrame(at)) known.add(path);
  const out = new Set<string>();
  for (const at of all) for (const path of inFrame(at)) if (!known.has(path)) out.add(path);
  return [...out];
}
