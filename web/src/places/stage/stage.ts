// What all panels of the Stage are given.
import type { Project, Variant } from '@variscen/contract';
import type { ReactNode, RefObject } from 'react';
import type { CurrentDestination } from '../../model/destinations.ts';
import type { ProjectSession } from '../../session/projectSession.ts';
import type { TrayHandle } from './pending/PendingTray.tsx';
import type { ViewHandle } from './view/View.tsx';
import type { Lights } from './lights/useLights.ts';
import type { Matching } from './match/useMatching.ts';
import type { Looking } from './useLooking.ts';
import type { Recording } from './useRecording.ts';
import type { ScenePicks } from './useScenePicks.ts';
import type { Selection } from './useSelection.ts';
import type { Shown } from './useShown.ts';

export interface Stage {
  readonly project: Project;
  readonly sceneHash: string;
  readonly shown: Shown;
  readonly variant: Variant;
  readonly destination: CurrentDestination;
  readonly session: ProjectSession;
  readonly looking: Looking;
  readonly selection: Selection;
  readonly recording: Recording;
  readonly picks: ScenePicks;
  readonly lights: Lights;
  readonly matching: Matching;
  /** Cameras whose settings are shown; none: the values of what is selected are. */
  readonly settingsOf: readonly string[];
  /** Whether the lights of the look are being mixed: the view shows them so. */
  readonly isMixing: boolean;
  /** Buttons that open and close what may stand beside the view. */
  readonly toggles: ReactNode;
  readonly view: RefObject<ViewHandle | null>;
  readonly tray: RefObject<TrayHandle | null>;
}

export interface StagePanelProps {
  stage: Stage;
}
