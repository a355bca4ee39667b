// A scene in the engine's memory.
import * as K from '../kernel/layout/index.ts';
import type { LoadedParts } from './loadedParts.ts';
import type { MemoryPlan } from './memoryPlaces.ts';
import type { EngineScene, SceneMesh, Vec3 } from './scene.ts';
import type { RenderSettings } from './renderSettings.ts';

/**
 * What stays known of a loaded scene. The scene itself is in the engine's memory; the copy that it came in is not held.
 */
export interface Loaded {
  readonly plan: MemoryPlan;
  readonly settings: RenderSettings;
  readonly instances: number;
  /** Taken from all positions. */
  readonly origin: Vec3;
  readonly parts: LoadedParts;
  /** Of each instance its mesh. */
  readonly meshes: readonly number[];
  /** What it came in, while somebody has that. */
  readonly source: WeakRef<EngineScene<SceneMesh>>;
}
/** Whether all that comes before the film is as it is there. What is loaded piece by piece is loaded anew. */
export function isOfAnotherSize(
  { plan: there, settings: old }: Loaded,
  plan: MemoryPlan,
  settings: RenderSettings,
): boolean {
  const apartFromSize = (s: RenderSettings) => JSON.stringify({ ...s, widthPx: 0, heightPx: 0, region: null });
  const isWhole = there.piecesBytes === 0 && plan.piecesBytes === 0;
  return isWhole && there.film === plan.film && apartFromSize(old) === apartFromSize(settings);
}
/** Where its mask is, counted in words of four bytes. */
export const maskWord = (plan: MemoryPlan, instance: number): number =>
  (plan.instances + instance * K.INST.BYTES + K.INST.MASK) >>> 2;
