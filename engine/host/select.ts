// From a scene document and a resolved look to what the engine renders. In two steps: select() decides from the posed
// document alone, so that a plan can count bytes before anything is loaded (displaced meshes apart, which are counted
// by making them); attach() brings the geometry and pixels in.
import type { NamedObjects } from '@variscen/core/cull';
import type { ResolvedState } from '@variscen/core/looks';
import type { Pose } from '@variscen/core/scene';
import { Look } from './look.ts';
import type { Selection } from './selection.ts';

/**
 * @param asClay everything is of clay, whatever looks say
 * @param named what people and evidence have named for the camera
 */
export function select({ now, next }: Pose, state: ResolvedState, asClay = false, named?: NamedObjects): Selection {
  const look = new Look(now.document, next?.document, state, asClay);
  return { ...look.through(now.camera, named), pose: poseIn(look, now.camera, next?.camera) };
}

/** A camera, and where it stands a frame later, with the scene as the look places it. */
export const poseIn = (look: Look, now: Pose['now']['camera'], next: Pose['now']['camera'] | undefined): Pose => ({
  now: { document: look.document, camera: now },
  ...(look.next && next && { next: { document: look.next, camera: next } }),
});
