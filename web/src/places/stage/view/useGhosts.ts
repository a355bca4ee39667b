// What the camera leaves out, for showing it as ghosts where the scene is looked at from elsewhere.
import { culls, isLeftOut } from '@variscen/core/cull';
import type { CameraSettings } from '@variscen/core/scene';
import { useEffect, useState } from 'react';
import { useCullPlan } from '../../../api/cullPlan.ts';
import { cullWish, culledBy } from '../../../engine/culled.ts';
import { sayError } from '../../../ui/notify.ts';
import type { StagePanelProps } from '../stage.ts';

const NONE: ReadonlySet<string> = new Set();
/** While values are dragged nothing is worked out. */
const SETTLED_MS = 300;

/** Paths of objects. @param isWanted somebody looks from elsewhere and wants to see them so */
export function useGhosts({ project, sceneHash, shown }: StagePanelProps['stage'], isWanted: boolean) {
  const { camera, index, state } = shown;
  const plan = useCullPlan(project.id, camera);
  const [found, setFound] = useState<{ readonly of: string; readonly paths: ReadonlySet<string> }>();
  const settings = camera?.settings as CameraSettings | undefined;
  const asks = isWanted && settings !== undefined && culls(settings) && plan !== undefined;
  useEffect(() => {
    if (!asks || !camera || !index || !state) return;
    const stop = new AbortController();
    const { keep = [], leaveOut: byHand = [], byEvidence = [] } = plan ?? {};
    const named = { keep, byHand, byEvidence, standIns: {}, pieces: {} };
    const settled = setTimeout(() => {
      culledBy(cullWish(sceneHash, state, settings, named), stop.signal)
        .then(({ verdicts }) => {
          const { nodes } = index.document;
          // copies come after the scene's own nodes
          const paths = verdicts.filter(isLeftOut).flatMap((v) => nodes[v.node]?.path ?? []);
          setFound({ of: camera.id, paths: new Set(paths) });
        })
        .catch((e: unknown) => {
          if (!stop.signal.aborted) sayError(e);
        });
    }, SETTLED_MS);
    return () => {
      clearTimeout(settled);
      stop.abort(new Error('Something else is shown.'));
    };
  }, [asks, camera, index, state, settings, plan, sceneHash]);
  return asks && found?.of === camera?.id ? (found?.paths ?? NONE) : NONE;
}
