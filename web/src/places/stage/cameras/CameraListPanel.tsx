// The list of cameras among the panels of the Stage.
import type { StagePanelProps } from '../stage.ts';
import { CameraList } from './CameraList.tsx';

export function CameraListPanel({ stage }: StagePanelProps) {
  const { project, shown, session, looking, selection, settingsOf, view } = stage;
  return (
    <CameraList
      project={project}
      document={shown.index?.document}
      current={shown.camera}
      selected={settingsOf}
      session={session}
      viewed={() => view.current?.viewed()}
      onLook={looking.look}
      onSelect={selection.selectCameras}
    />
  );
}
