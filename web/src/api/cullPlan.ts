// What a camera leaves out by name, as it is kept.
import type { Camera } from '@variscen/contract';
import type { CullPlan } from '@variscen/core/cull';
import { useQuery } from '@tanstack/react-query';
import { call } from './client.ts';

/** A plan never changes under its hash: no event of the project asks for it again. */
export const cullPlanQuery = (projectId: string, cameraId: string, hash: string) => ({
  queryKey: ['cull-plan', projectId, cameraId, hash],
  staleTime: Infinity,
  queryFn: () => call('cullPlan', { params: { projectId, cameraId } }),
});

/** undefined: not known yet; null: the camera has none. */
export function useCullPlan(projectId: string, camera: Camera | undefined): CullPlan | null | undefined {
  const hash = camera?.settings.cull?.plan;
  const { data } = useQuery({
    ...cullPlanQuery(projectId, camera?.id ?? '', hash ?? ''),
    enabled: hash !== undefined,
  });
  return hash === undefined ? null : (data?.plan as CullPlan | null | undefined);
}
