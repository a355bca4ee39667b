// The middle of the Stage: the view, the plan beside it, the time below.
import type { Project } from '@variscen/contract';
import { SceneIndex, objectTarget, placeDocument } from '@variscen/core/looks';
import { type CameraSettings, FRAMES_PER_SECOND } from '@variscen/core/scene';
import { type RefObject, useCallback, useMemo } from 'react';
import type { ProjectSession } from '../../session/projectSession.ts';
import { useAddress } from '../../ui/address.ts';
import styles from './StagePlace.module.css';
import { TimeBar } from './TimeBar.tsx';
import { View, type ViewHandle } from './view/View.tsx';
import { PlanView } from './plan/PlanView.tsx';
import type { Looking } from './useLooking.ts';
import type { useScenePicks } from './useScenePicks.ts';
import type { Selection } from './useSelection.ts';
import type { Shown } from './useShown.ts';

interface Props {
  project: Project;
  sceneHash: string;
  shown: Shown;
  selection: Selection;
  looking: Looking;
  session: ProjectSession;
  picks: ReturnType<typeof useScenePicks>;
  view: RefObject<ViewHandle | null>;
}

export function StageMiddle({ project, sceneHash, shown, selection, looking, session, picks, view }: Props) {
  const [search, put] = useAddress();
  const isPlanOpen = search.get('plan') === 'open';
  const { index, state, camera } = shown;
  const { nodes } = selection;
  const placedIndex = useMemo(() => {
    if (!isPlanOpen || !index || !state) return undefined;
    const document = placeDocument(index.document, state);
    return document === index.document ? index : new SceneIndex(document);
  }, [isPlanOpen, index, state]);
  const depthOf = useCallback((c: CameraSettings, w: number, h: number) => view.current?.depth(c, w, h), [view]);
  const animation = index?.document.animation;
  return (
    <div className={styles.middle} data-animated={animation !== undefined}>
      <div className={styles.views} data-plan={isPlanOpen}>
        <View
          handle={view}
          sceneHash={sceneHash}
          shown={{
            index,
            state,
            cameras: project.cameras,
            camera: looking.free ? undefined : camera,
            frame: looking.frame,
            nodes,
          }}
          actions={{
            onPick: picks.picked,
            onBox: (found, more) => selection.selectNodes(more ? [...new Set([...nodes, ...found])] : found),
            onCameraMoved: (matrix) => {
              if (camera) session.moveCamera(camera.id, matrix);
            },
            onCameraRested: () => session.cameraRested(),
            onPlaced: picks.placed,
          }}
          moves={session.moves}
          picking={looking.picking}
          onUnlock={() => {
            if (camera) session.changeCameras([camera.id], { handling: { locked: false } });
          }}
          onLookAround={() => looking.setFree(true)}
          onDrop={() => void picks.drop()}
          onMaterial={(material, hit) =>
            picks.assign(material, hit.node, hit.copy === undefined ? undefined : objectTarget(hit.copy))
          }
          tools={
            <button
              type="button"
              className={`quiet ${styles.quiet}`}
              aria-pressed={isPlanOpen}
              onClick={() => put({ plan: isPlanOpen ? null : 'open' })}
            >
              Plan view
            </button>
          }
        />
        {placedIndex && state && (
          <PlanView
            sceneHash={sceneHash}
            index={placedIndex}
            state={state}
            cameras={project.cameras}
            camera={camera}
            nodes={nodes}
            session={session}
            depthOf={depthOf}
            onLook={looking.look}
          />
        )}
      </div>
      {animation && <Time shown={shown} durationS={animation.durationS} looking={looking} session={session} />}
    </div>
  );
}

interface TimeProps {
  shown: Shown;
  durationS: number;
  looking: Looking;
  session: ProjectSession;
}
function Time({ shown: { camera }, durationS, looking, session }: TimeProps) {
  const frames = camera?.handling.frames;
  const use = (frame: number) => {
    if (!camera) return;
    session.changeCameras([camera.id], { settings: { frame: frame === 0 ? undefined : frame } });
    looking.setFrame(null);
  };
  return (
    <TimeBar
      first={frames?.first ?? 0}
      last={frames?.last ?? Math.ceil(durationS * FRAMES_PER_SECOND)}
      step={frames?.step ?? 1}
      own={camera?.settings.frame ?? 0}
      shown={looking.frame}
      onShow={looking.setFrame}
      onUse={camera && use}
    />
  );
}
