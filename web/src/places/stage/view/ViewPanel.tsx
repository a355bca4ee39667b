// The view among the panels of the Stage.
import { objectTarget } from '@variscen/core/looks';
import type { StagePanelProps } from '../stage.ts';
import { View } from './View.tsx';

export function ViewPanel({ stage }: StagePanelProps) {
  const { project, sceneHash, shown, selection, looking, session, picks, view } = stage;
  const { index, state, camera } = shown;
  const { nodes } = selection;
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
      tools={stage.toggles}
    />
  );
}
