// The scene: tree, view, inspector; options below. What hands change here goes to the destination that the sentence
// names.
import type { Project, Variant } from '@variscen/contract';
import { type CameraSettings, FRAMES_PER_SECOND } from '@variscen/core/scene';
import { useEffect, useRef } from 'react';
import { Link } from 'react-router';
import { useClipboard } from '../../model/clipboard.ts';
import { type ChosenDestination, pendingOf } from '../../model/destinations.ts';
import { type Kept, useSession } from '../../session/projectSession.ts';
import { useAddress } from '../../ui/address.ts';
import { plural } from '../../ui/format.ts';
import { GestureContext } from '../../ui/gesture.ts';
import { drawn } from '../../ui/measured.ts';
import { say } from '../../ui/notify.ts';
import { StageMiddle } from './StageMiddle.tsx';
import styles from './StagePlace.module.css';
import { StageSentence } from './StageSentence.tsx';
import { StageSide } from './StageSide.tsx';
import type { ViewHandle } from './view/View.tsx';
import { CameraPanel } from './cameras/CameraPanel.tsx';
import { ContactStrip } from './cameras/ContactStrip.tsx';
import { Inspector } from './inspector/Inspector.tsx';
import { MaterialStrip } from './options/MaterialStrip.tsx';
import { OptionStrip } from './options/OptionStrip.tsx';
import { PendingTray, type TrayHandle } from './pending/PendingTray.tsx';
import { RightPlace } from './pending/RightPlace.tsx';
import { useLooking } from './useLooking.ts';
import { useRecording } from './useRecording.ts';
import { useScenePicks } from './useScenePicks.ts';
import { useSelection } from './useSelection.ts';
import { type Shown, useShown } from './useShown.ts';
import { useStageKeys } from './useStageKeys.ts';

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
  return <Stage project={project} sceneHash={sceneHash} shown={shown} variant={variant} destination={destination} />;
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
  destination: ChosenDestination;
}
function Stage({ project, sceneHash, shown, variant, destination }: StageProps) {
  const [search, put] = useAddress();
  const session = useSession(project.id);
  const looking = useLooking(session);
  const selection = useSelection(shown.index);
  const recording = useRecording(project, shown);
  const picks = useScenePicks(project, { shown, selection, recording, looking, session });
  const tray = useRef<TrayHandle>(null);
  const view = useRef<ViewHandle>(null);
  useEffect(() => drawn('stage drawn'));
  useStageKeys(project, {
    shown,
    targets: selection.targets,
    record: recording.record,
    tray,
    onEscape: () => looking.setPicking(false),
  });
  const { index, state, camera, destinations } = shown;
  const side = search.get('side') === 'cameras' ? 'cameras' : 'scene';
  // beside the list of cameras stand the settings of those selected in it, or of the one that is looked through
  const isCameraImplied = side === 'cameras' && !selection.cameraIds.length && selection.selected === null && camera;
  const cameraIds = isCameraImplied ? [camera.id] : selection.cameraIds;
  const toDestination = (id: string) => put({ to: id });
  return (
    <GestureContext value={session.beginGesture}>
      <StageSentence
        project={project}
        shown={shown}
        variant={variant}
        destination={destination}
        looking={looking}
        selection={selection}
      />
      <main className={`place ${styles.place}`}>
        <StageSide
          project={project}
          shown={shown}
          selection={selection}
          session={session}
          view={view}
          side={side}
          cameraIds={cameraIds}
          onLook={looking.look}
          onAssign={picks.assign}
        />
        <StageMiddle
          project={project}
          sceneHash={sceneHash}
          shown={shown}
          selection={selection}
          looking={looking}
          session={session}
          picks={picks}
          view={view}
        />
        <aside aria-label="Inspector" className={styles.inspector}>
          {cameraIds.length ? (
            <CameraPanel
              cameras={project.cameras.filter((c) => cameraIds.includes(c.id))}
              session={session}
              animatedFrames={Math.ceil((index?.document.animation?.durationS ?? 0) * FRAMES_PER_SECOND)}
              picking={looking.picking}
              onPickFocus={looking.setPicking}
            />
          ) : (
            <Inspector
              project={project}
              index={index}
              state={state}
              selected={selection.selected}
              nodes={selection.nodes}
              destination={destination}
              edit={recording.edit}
              record={recording.record}
              onDiscard={(target, property) => session.discard(destination.id, [{ target, property }])}
              onClear={(layer, target, property) => void session.recorded(layer, [], [{ target, property }])}
              onDestination={toDestination}
              onSelect={selection.select}
              onNodes={selection.selectNodes}
            />
          )}
        </aside>
        <Strip
          project={project}
          sceneHash={sceneHash}
          shown={shown}
          variant={variant}
          destination={destination}
          onLook={looking.look}
          onSelect={selection.select}
          selected={selection.selected}
        />
        <PendingTray
          project={project}
          index={index}
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
        destinations={destinations}
        inVariant={variant.optionIds}
        onClose={recording.dropAsked}
        onPick={recording.answer}
        onNewOption={(facet, name) => void recording.answerWithNew(facet, name)}
      />
    </GestureContext>
  );
}

function pendingElsewhere(project: Project, destinationId: string): number {
  return project.pending.filter((x) => x.destination !== destinationId).reduce((n, x) => n + x.changes.length, 0);
}

interface StripProps extends StageProps {
  selected: string | null;
  onLook: (cameraId: string) => void;
  onSelect: (target: string | null) => void;
}
/** Options of a facet, all cameras, or all materials, each with its picture. */
function Strip({ project, sceneHash, shown, variant, destination, selected, onLook, onSelect }: StripProps) {
  const [, put] = useAddress();
  const session = useSession(project.id);
  const { copy } = useClipboard();
  const { index, state, camera } = shown;
  return (
    <OptionStrip
      project={project}
      variant={variant}
      index={index}
      sceneHash={sceneHash}
      camera={camera && { id: camera.id, settings: camera.settings as CameraSettings }}
      destination={destination}
      session={session}
      onDestination={(id) => put({ to: id })}
      onCopied={(changes, from) => {
        copy({ from, changes });
        say(
          `${plural(changes.length, 'value')} of “${from}” are copied`,
          'Paste them with Ctrl+V: into the destination, or onto what is selected.',
        );
      }}
      cameras={
        <ContactStrip
          sceneHash={sceneHash}
          index={index}
          project={project}
          variant={variant}
          current={camera?.id}
          onLook={onLook}
        />
      }
      materials={
        index &&
        state && (
          <MaterialStrip
            project={project}
            index={index}
            state={state}
            sceneHash={sceneHash}
            selected={selected}
            onSelect={onSelect}
          />
        )
      }
    />
  );
}
