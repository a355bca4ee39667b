// Asks the engine what a camera leaves out.
import { type ResolvedState, propertyOf } from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import { engineService } from './engineService.ts';
import type { CullWish, Culled } from './messages.ts';

/** @param named for the camera, by people and evidence */
export function cullWish(
  sceneHash: string,
  state: ResolvedState,
  camera: CameraSettings,
  named: Pick<CullWish, 'keep' | 'byHand' | 'byEvidence' | 'standIns' | 'pieces'>,
): CullWish {
  const changes = [...state.values.values()]
    .filter((v) => propertyOf(v.property.id)?.facet !== 'grade')
    .map((v) => ({ target: v.target, property: v.property.id, value: v.value }));
  return { sceneHash, changes, camera, ...named };
}

/** @throws Error where it could not be worked out; the signal's reason where nobody waits any more */
export function culledBy(wish: CullWish, signal: AbortSignal): Promise<Culled> {
  let id: number | undefined;
  return new Promise<Culled>((resolve, reject) => {
    signal.throwIfAborted();
    signal.addEventListener('abort', () => reject(signal.reason as Error), { once: true });
    id = engineService.ask({ kind: 'cull', wish }, (said) => {
      if (said.kind === 'failed') reject(new Error(said.message));
      if (said.kind === 'culled') resolve(said.culled);
    });
  }).finally(() => {
    if (id !== undefined) engineService.forget(id);
  });
}
