// All materials among the panels of the Stage.
import type { StagePanelProps } from '../stage.ts';
import { MaterialStrip } from './MaterialStrip.tsx';

export function MaterialStripPanel({ stage }: StagePanelProps) {
  const { project, sceneHash, shown, selection } = stage;
  const { index, state } = shown;
  if (!index || !state) return null;
  return (
    <MaterialStrip
      project={project}
      index={index}
      state={state}
      sceneHash={sceneHash}
      selected={selection.selected}
      onSelect={selection.select}
    />
  );
}
