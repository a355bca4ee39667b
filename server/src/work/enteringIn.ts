// What comes into a camera's frame between the frames that a probe traces, found by boxes alone.
import { type AtFrame, entering } from '@variscen/core/cull';
import { type ResolvedState, placeDocument } from '@variscen/core/looks';
import { type CameraSettings, type SceneDocument, poseFor } from '@variscen/core/scene';
import type { ProbeTask } from './tasks.ts';

/** Paths of objects, shown or not. */
export function enteringIn(
  { cameras, frames }: Pick<ProbeTask, 'cameras' | 'frames'>,
  document: SceneDocument,
  motion: Float32Array | undefined,
  state: ResolvedState,
): string[] {
  const [first] = cameras;
  if (!first || frames.length <= cameras.length) return [];
  function* posed(of: Iterable<CameraSettings>): Iterable<AtFrame> {
    for (const camera of of) {
      const { now } = poseFor(document, motion, camera);
      yield { document: placeDocument(now.document, state), camera: now.camera };
    }
  }
  const all = frames.map((frame) => ({ ...first, frame }));
  return entering(posed(all), posed(cameras));
}
