// Plans of what cameras leave out, as they are kept among the content.
import { type NamedObjects, namedBy, unpackCullPlan } from '@variscen/core/cull';
import type { CameraSettings } from '@variscen/core/scene';
import { engineBuild } from '@variscen/engine/node';

/**
 * What people and evidence have named for a camera, pins included; undefined where nothing is.
 * @param content by its hash
 */
export async function namedFor(
  { cull }: Pick<CameraSettings, 'cull'>,
  content: (hash: string) => Promise<Uint8Array>,
): Promise<NamedObjects | undefined> {
  if (cull?.plan === undefined) return undefined;
  return namedBy(unpackCullPlan(await content(cull.plan)), await engineBuild());
}
