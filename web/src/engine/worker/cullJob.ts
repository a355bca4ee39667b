// What a camera leaves out in a look, and what the rest takes: worked out without loading anything. The last look is
// kept, since a person tries one list after another.
import { type NamedObjects, uncut } from '@variscen/core/cull';
import { resolve } from '@variscen/core/looks';
import { type CameraSettings, poseFor } from '@variscen/core/scene';
import { type CameraView, Look, type MemoryBytes, countSelection, layOut, poseIn } from '@variscen/engine';
import type { CullWish, Culled } from '../messages.ts';
import type { SceneStore } from './sceneStore.ts';

/** What stays out of account: the picture itself and the threads take the same either way. */
const NO_PICTURE = { widthPx: 1, heightPx: 1, maxBounces: 1, clampIndirect: 0, seed: 0 };
/** Rules are asked also where nothing is named yet: which objects give light is known then. */
const ASKED = '';

interface Kept {
  readonly key: string;
  readonly look: Look;
  /** At this pose. */
  readonly camera: CameraSettings;
  readonly wholeBytes: MemoryBytes;
}
let last: Kept | undefined;

export async function cull(scenes: SceneStore, w: CullWish): Promise<Culled> {
  const { look, camera, wholeBytes } = await lookOf(scenes, w);
  const named: NamedObjects = {
    keep: new Set(w.keep),
    byHand: new Set(w.byHand),
    byEvidence: new Set(w.byEvidence),
    nits: new Map(),
    standIns: new Map(Object.entries(w.standIns)),
    pieces: new Map(Object.entries(w.pieces)),
  };
  const asked = { ...camera, cull: { ...camera.cull, leaveOut: ASKED } };
  const view = look.through(asked, named);
  return { verdicts: view.verdicts, bytes: bytesOf(look, view, camera), wholeBytes };
}

async function lookOf(scenes: SceneStore, w: CullWish): Promise<Kept> {
  const { leaveOut: _, keep: __, plan: ___, standIns: ____, ...rules } = w.camera.cull ?? {};
  const key = JSON.stringify([w.sceneHash, w.changes, { ...w.camera, cull: rules }]);
  if (last?.key === key) return last;
  const open = await scenes.scene(w.sceneHash);
  const state = resolve(open.index, [{ id: 'snapshot', name: '', kind: 'base', changes: w.changes }]);
  const { document, camera } = poseFor(open.document, open.motion, w.camera).now;
  const look = new Look(document, undefined, state);
  last = { key, look, camera, wholeBytes: bytesOf(look, look.through(uncut(camera)), camera) };
  return last;
}

function bytesOf(look: Look, view: CameraView, camera: CameraSettings): MemoryBytes {
  const selection = { ...view, pose: poseIn(look, camera, undefined) };
  return layOut(countSelection(selection, NO_PICTURE, 1)).bytes;
}
