// The scene: tree, view, inspector; options below. What hands change here goes to the destination that the sentence
// names. Its panels are registered in panels.tsx.
import type { Project, Variant } from '@variscen/contract';
import { useEffect, useRef } from 'react';
import { Link } from 'react-router';
import { type CurrentDestination, pendingOf } from '../../model/destinations.ts';
import { type Kept, useSession } from '../../session/projectSession.ts';
import { useAddress } from '../../ui/address.ts';
import { GestureContext } from '../../ui/gesture.ts';
import { drawn } from '../../ui/measured.ts';
import { StageMiddle, ViewingToggles } from './StageMiddle.tsx';
import styles from './StagePlace.module.css';
import { StageSentence } from './StageSentence.tsx';
import { StageSide, sidePanelIn } from './StageSide.tsx';
import { StageStrip } from './StageStrip.tsx';
import { VALUES_PANELS } from './panels.tsx';
import { PendingTray, type TrayHandle } from './pending/PendingTray.tsx';
import { RightPlace } from './pending/RightPlace.tsx';
import type { Stage } from './stage.ts';
import { useLights } from './lights/useLights.ts';
import { useMatching } from './match/useMatching.ts';
import { useMixer } from './mix/useMix.ts';
import { useLooking } from './useLooking.ts';
import { useRecording } from './useRecording.ts';
import { useScenePicks } from './useScenePicks.ts';
import { useSelection } from './useSelection.ts';
import { type Shown, useShown } from './useShown.ts';
import { useStageKeys } from './useStageKeys.ts';
import type { ViewHandle } from './view/View.tsx';

export function StagePlace({ project }: { project: Project }) {
  const shown = useShown(project);
  const { variant, destination } = shown;
  if (!project.revision) {
    return (
      <Missing project={project} what="scene" first="Import a scene first" to="/projects" place="the projects">
        The stage shows it, its lights and cameras.
      </Missing>
    );
  }
  if (!variant || !destination) {
    const board = `/projects/${project.id}/board`;
    return (
      <Missing project={project} what="variant" first="Make a variant first" to={board} place="the board">
        On the board, from any options or none.
      </Missing>
    );
  }
  const { sceneHash } = project.revision;
  return (
    <WholeStage project={project} sceneHash={sceneHash} shown={shown} variant={variant} destination={destination} />
  );
}

interface MissingProps {
  project: Project;
  what: string;
  first: string;
  to: string;
  place: string;
  children: string;
}
function Missing({ project, what, first, to, place, children }: MissingProps) {
  return (
    <>
      <header className="sentence">
        “{project.name}” has no {what} yet.
      </header>
      <main className="place empty">
        <h1>{first}</h1>
        <p>{children}</p>
        <Link className={`go ${styles.go}`} to={to}>
          Go to {place}
        </Link>
      </main>
    </>
  );
}

interface StageProps {
  project: Project;
  sceneHash: string;
  shown: Shown;
  variant: Variant;
  destination: CurrentDestination;
}
function WholeStage(given: StageProps) {
  const [, put] = useAddress();
  const stage = useStage(given);
  const { project, shown, variant, destination, session, recording, tray } = stage;
  useEffect(() => drawn('stage drawn'));
  useStageKeys(stage);
  const Values = VALUES_PANELS.find((p) => p.isFor(stage))?.Panel;
  return (
    <GestureContext value={session.beginGesture}>
      <StageSentence stage={stage} />
      <main className={`place ${styles.place}`}>
        <StageSide stage={stage} />
        <StageMiddle stage={stage} />
        <aside aria-label="Inspector" className={styles.inspector}>
          {Values && <Values stage={stage} />}
        </aside>
        <StageStrip stage={stage} />
        <PendingTray
          project={project}
          index={shown.index}
          destination={destination}
          variant={variant}
          pending={pendingOf(project, destination.id)}
          elsewhere={pendingElsewhere(project, destination.id)}
          session={session}
          handle={tray}
          onKept={({ optionIds, variantId }: Kept) =>
            put({ to: `option:${optionIds.at(-1)!}`, ...(variantId !== null && { variant: variantId }) })
          }
        />
      </main>
      <RightPlace
        projectId={project.id}
        changes={recording.asked}
        from={destination}
        destinations={shown.destinations}
        inVariant={variant.optionIds}
        onClose={recording.dropAsked}
        onPick={recording.answer}
        onNewOption={(facet, name) => void recording.answerWithNew(facet, name)}
      />
    </GestureContext>
  );
}

function useStage({ project, sceneHash, shown, variant, destination }: StageProps): Stage {
  const [search] = useAddress();
  const session = useSession(project.id);
  const looking = useLooking(session);
  const selection = useSelection(shown.index);
  const recording = useRecording(project, shown);
  const view = useRef<ViewHandle>(null);
  const lights = useLights(project, { shown, selection, recording, looking, session, view });
  const picks = useScenePicks(project, { shown, selection, recording, looking, session, lights });
  const matching = useMatching(project.id, { shown, looking, recording, session });
  const tray = useRef<TrayHandle>(null);
  const [isMixing] = useMixer();
  // beside the list of cameras stand the settings of those selected in it, or of the one that is looked through
  const isNothingSelected = !selection.cameraIds.length && selection.selected === null;
  const implied = sidePanelIn(search).id === 'cameras' && isNothingSelected ? shown.camera : undefined;
  return {
    project,
    sceneHash,
    shown,
    variant,
    destination,
    session,
    looking,
    selection,
    recording,
    picks,
    lights,
    matching,
    settingsOf: implied ? [implied.id] : selection.cameraIds,
    isMixing,
    toggles: <ViewingToggles />,
    view,
    tray,
  };
}

function pendingElsewhere(project: Project, destinationId: string): number {
  return project.pending.filter((x) => x.destination !== destinationId).reduce((n, x) => n + x.changes.length, 0);
}
