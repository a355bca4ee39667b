// All cameras among the panels of the Stage.
import type { StagePanelProps } from '../stage.ts';
import { ContactStrip } from './ContactStrip.tsx';

export function ContactStripPanel({ stage }: StagePanelProps) {
  const { project, sceneHash, shown, variant, looking } = stage;
  return (
    <ContactStrip
      sceneHash={sceneHash}
      index={shown.index}
      project={project}
      variant={variant}
      current={shown.camera?.id}
      onLook={looking.look}
    />
  );
}
