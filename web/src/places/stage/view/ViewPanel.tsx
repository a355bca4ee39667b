// The view among the panels of the Stage.
import { culls } from '@variscen/core/cull';
import { objectTarget } from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import type { StagePanelProps } from '../stage.ts';
import { useState } from 'react';
import { AddLightMenu } from '../lights/AddLightMenu.tsx';
import { PickingNote } from '../lights/PickingNote.tsx';
import { useMix, useMixer } from '../mix/useMix.ts';
import { View } from './View.tsx';
import styles from './View.module.css';
import { useGhosts } from './useGhosts.ts';

export function ViewPanel({ stage }: StagePanelProps) {
  const { project, sceneHash, shown, selection, looking, session, picks, lights, view } = stage;
  const { index, camera } = shown;
  const [isMixing, toggleMixer] = useMixer();
  const mix = useMix(project.id, isMixing ? shown.state : undefined); // nothing is looked for while it is closed
  const state = mix.state ?? shown.state;
  const { nodes } = selection;
  const [wantsGhosts, setWantsGhosts] = useState(true);
  const leavesOut = looking.free && camera !== undefined && culls(camera.settings as CameraSettings);
  const ghosts = useGhosts(stage, leavesOut && wantsGhosts);
  return (
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
        ghosts,
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
      picking={looking.picking !== null}
      matching={stage.matching}
      onUnlock={() => {
        if (camera) session.changeCameras([camera.id], { handling: { locked: false } });
      }}
      onLookAround={() => looking.setFree(true)}
      onDrop={() => void picks.drop()}
      onMaterial={(material, hit) =>
        picks.assign(material, hit.node, hit.copy === undefined ? undefined : objectTarget(hit.copy))
      }
      note={<PickingNote looking={looking} lights={lights} />}
      tools={
        <>
          <AddLightMenu lights={lights} disabled={!state} />
          {leavesOut && (
            <button
              type="button"
              className={`quiet ${styles.quiet2}`}
              aria-pressed={wantsGhosts}
              title={`What “${camera.name}” leaves out is shown as ghosts`}
              onClick={() => setWantsGhosts(!wantsGhosts)}
            >
              Ghosts
            </button>
          )}
          <button
            type="button"
            className={`quiet ${styles.quiet2}`}
            aria-pressed={isMixing}
            title="Try other strengths and colours of the lights, without recording them"
            onClick={toggleMixer}
          >
            Mix lights
          </button>
          {stage.toggles}
        </>
      }
    />
  );
}
