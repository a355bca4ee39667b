// A stored scene in a look, as tasks take it up.
import { type Change, type ResolvedState, SceneIndex, resolve } from '@variscen/core/looks';
import { type SceneDocument, animationData } from '@variscen/core/scene';
import { AssetStore } from '../files/store.ts';

export interface OpenScene {
  readonly asset: (hash: string) => Promise<Uint8Array>;
  readonly document: SceneDocument;
  readonly motion: Float32Array | undefined;
  readonly state: ResolvedState;
}
/** @param changes of the look, as a snapshot */
export async function openScene(t: {
  readonly assets: string;
  readonly sceneHash: string;
  readonly changes: readonly Change[];
}): Promise<OpenScene> {
  const store = new AssetStore(t.assets);
  const asset = (hash: string) => store.get(hash);
  const document = JSON.parse(new TextDecoder().decode(await asset(t.sceneHash))) as SceneDocument;
  const motion = await animationData(document, asset);
  const state = resolve(new SceneIndex(document), [{ id: 'snapshot', name: '', kind: 'base', changes: t.changes }]);
  return { asset, document, motion, state };
}
