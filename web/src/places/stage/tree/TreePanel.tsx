// The tree among the panels of the Stage.
import type { Project } from '@variscen/contract';
import type { CameraSettings } from '@variscen/core/scene';
import { call } from '../../../api/client.ts';
import { useMet } from '../../../engine/met.ts';
import type { StagePanelProps } from '../stage.ts';
import { Tree } from './Tree.tsx';

export function TreePanel({ stage }: StagePanelProps) {
  const { project, sceneHash, shown, selection, session, picks, view } = stage;
  const { index, state } = shown;
  const camera = shown.camera?.settings as CameraSettings | undefined;
  const findMet = useMet({ sceneHash, index, state, camera, onFound: selection.selectNodes });
  const putSets = (sets: Project['sets']) =>
    void session.writeProject(() => call('putSets', { params: { projectId: project.id }, body: { sets } }));
  return (
    <Tree
      project={project}
      index={index}
      state={state}
      camera={camera}
      selected={selection.selected}
      nodes={selection.nodes}
      onSelect={selection.select}
      onNodes={selection.selectNodes}
      onSets={putSets}
      onMet={findMet}
      onMaterial={picks.assign}
      onIntoView={() => view.current?.bringIntoView()}
    />
  );
}
