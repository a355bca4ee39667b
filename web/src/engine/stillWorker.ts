// What tests of who asks the engine stand on: a worker that stands still, what it was told, and a scene with nothing in it.
import { SceneIndex, resolve } from '@variscen/core/looks';
import { type SceneDocument, cameraForScene } from '@variscen/core/scene';
import type { FromEngine, ToEngine } from './messages.ts';

export class StillWorker {
  static readonly told: ToEngine[] = [];
  static current: StillWorker;
  onmessage: ((m: { data: FromEngine }) => void) | undefined;
  constructor() {
    StillWorker.current = this;
  }
  postMessage(m: ToEngine): void {
    StillWorker.told.push(m);
  }
  terminate(): void {}
}

export const NOTHING: SceneDocument = {
  version: 1,
  meshes: [],
  textures: [],
  cameras: [],
  materials: [],
  lights: [],
  nodes: [],
};
export const shownNothing = {
  sceneHash: 'scene',
  state: resolve(new SceneIndex(NOTHING), []),
  camera: cameraForScene(NOTHING),
  width: 64,
  height: 36,
};
