// What tests of who asks the engine stand on: a worker that stands still, what it was told, a scene with nothing in it,
// and the node of this machine.
import type { RenderNode } from '@variscen/contract';
import { SceneIndex, resolve } from '@variscen/core/looks';
import { ALWAYS } from '@variscen/core/plan';
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

export const ownNode: RenderNode = {
  ...{ name: 'this machine', isOwn: true, state: 'rendering', isDrained: false, traceId: null },
  ...{ threads: 2, threadsNow: 1, why: null, hours: ALWAYS as RenderNode['hours'], seenAt: null },
  ...{ budgetMib: null, budgetBytes: null, usedBytes: null, work: { traces: 0, slices: 0, seconds: 0, paths: 0 } },
};
