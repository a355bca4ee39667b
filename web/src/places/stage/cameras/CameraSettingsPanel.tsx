// The settings of cameras among the panels of the Stage.
import { FRAMES_PER_SECOND } from '@variscen/core/scene';
import type { Matching } from '../match/useMatching.ts';
import type { StagePanelProps } from '../stage.ts';
import { CameraPanel } from './CameraPanel.tsx';

export function CameraSettingsPanel({ stage }: StagePanelProps) {
  const { project, shown, session, looking, settingsOf } = stage;
  const durationS = shown.index?.document.animation?.durationS ?? 0;
  return (
    <CameraPanel
      cameras={project.cameras.filter((c) => settingsOf.includes(c.id))}
      session={session}
      animatedFrames={Math.ceil(durationS * FRAMES_PER_SECOND)}
      picking={looking.picking?.for === 'focus'}
      matching={matchingOf(stage)}
      onPickFocus={(on) => looking.setPicking(on ? { for: 'focus' } : null)}
    />
  );
}

/** A plate is matched through the camera that is looked through. */
function matchingOf({ matching, shown, settingsOf }: StagePanelProps['stage']): Matching {
  const isLookedThrough = settingsOf.length === 1 && settingsOf[0] === shown.camera?.id;
  return isLookedThrough ? matching : { ...matching, lines: null, barred: 'Look through the camera first.' };
}
