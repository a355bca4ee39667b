// What the address says is shown: a camera in a variant, where edits go, and the state that all of it resolves to.
import type { Camera, Project, Variant } from '@variscen/contract';
import { type ResolvedState, type SceneIndex, layersOf, resolve } from '@variscen/core/looks';
import { useMemo } from 'react';
import { useScene } from '../../api/queries.ts';
import { type CurrentDestination, type Destination, destinationOf, destinationsOf } from '../../model/destinations.ts';
import { indexWithLights, lightsOf } from '../../model/projectIndex.ts';
import { useAddress } from '../../ui/address.ts';
import { withOption } from '../../model/withOption.ts';

export interface Shown {
  readonly index: SceneIndex | undefined;
  readonly state: ResolvedState | undefined;
  readonly camera: Camera | undefined;
  readonly variant: Variant | undefined;
  readonly destinations: readonly Destination[];
  readonly destination: CurrentDestination | undefined;
}

export function useShown(project: Project): Shown {
  const [search] = useAddress();
  const { data: scene } = useScene(project.revision?.sceneHash);
  const camera = project.cameras.find((c) => c.id === search.get('camera')) ?? project.cameras[0];
  const variant = project.variants.find((v) => v.id === search.get('variant')) ?? project.variants[0];
  const cameraId = camera?.id ?? '';
  const destinations = useMemo(
    () => (variant ? destinationsOf(project, cameraId, variant) : []),
    [project, cameraId, variant],
  );
  const to = search.get('to');
  const destination = useMemo(() => destinationOf(project, destinations, to), [project, destinations, to]);
  const { base, options, patches, pending } = project;
  const lights = useMemo(
    () => lightsOf({ base, options, patches, pending }).join('\n'),
    [base, options, patches, pending],
  );
  const index = useMemo(() => scene && indexWithLights(scene, lights ? lights.split('\n') : []), [scene, lights]);
  const shownVariant = useMemo(
    () => variant && asEdited(variant, destination, options),
    [variant, destination, options],
  );
  const state = useMemo(() => {
    if (!index || !shownVariant) return undefined;
    const layers = layersOf({ base, options, patches } as never, shownVariant, cameraId, pending as never);
    return resolve(index, layers);
  }, [index, base, options, patches, pending, shownVariant, cameraId]);
  return { index, state, camera, variant, destinations, destination };
}

/** An option that is being edited is shown even where the variant does not use it, instead of those of its facet. */
function asEdited(
  variant: Variant,
  destination: CurrentDestination | undefined,
  options: Project['options'],
): Pick<Variant, 'id' | 'optionIds'> {
  if (!destination?.isHere || !destination.facet || !destination.id.startsWith('option:')) return variant;
  const optionId = destination.id.slice('option:'.length);
  if (variant.optionIds.includes(optionId)) return variant;
  return { ...variant, optionIds: withOption({ options }, variant.optionIds, destination.facet, optionId) };
}
