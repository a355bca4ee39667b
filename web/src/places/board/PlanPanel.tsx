// What rendering the selected cells would take, before anything runs; and the button that runs it.
import { Modal, Select } from '@mantine/core';
import type { BoardCell, Plan, Project } from '@variscen/contract';
import { useState } from 'react';
import { type ProfileException, exceptionsOf } from '@variscen/core/plan';
import { plural } from '../../ui/format.ts';
import { DevelopCells } from './DevelopCells.tsx';
import { OneCell } from './OneCell.tsx';
import { ExceptionsDialog } from './profiles/ExceptionsDialog.tsx';
import { NamesDialog } from './profiles/NamesDialog.tsx';
import { settingWords } from './profiles/profileFields.ts';
import { ReviewLink } from './ReviewLink.tsx';
import { ProfilesDialog } from './profiles/ProfilesDialog.tsx';
import { grouped, useProfileList } from './profiles/useProfileList.ts';
import styles from './PlanPanel.module.css';
import { PlanRemarks } from './PlanRemarks.tsx';
import { MakeItFit } from './MakeItFit.tsx';
import { MeasureFirst } from './MeasureFirst.tsx';
import { PlanSummary } from './PlanSummary.tsx';
import { SharedTraces } from './SharedTraces.tsx';
import { WholePlan } from './WholePlan.tsx';
import { usePlan } from './usePlan.ts';
import { type WhichFrames, useWantedFrames } from './useWantedFrames.ts';

const FIRST_PROFILE = 'sketch';
const FILES_NAMED = 3;

type Opened = 'nothing' | 'plan' | 'profiles' | 'exceptions' | 'names';

export function PlanPanel({ project, cells }: { project: Project; cells: readonly BoardCell[] }) {
  const profiles = useProfileList(project);
  const [chosenId, setProfileId] = useState(FIRST_PROFILE);
  const [opened, setOpened] = useState<Opened>('nothing');
  const close = () => setOpened('nothing');
  const profile = profiles.find((x) => x.profile.id === chosenId)?.profile ?? profiles[0]?.profile;
  const profileId = profile?.id ?? FIRST_PROFILE;
  const [which, setWhich] = useState<WhichFrames>('all');
  const hasSequences = cells.some((c) => c.frames !== null);
  const wanted = useWantedFrames(project.id, cells, hasSequences ? which : 'all', profileId);
  const [isSeparate, setSeparate] = useState(false);
  const { plan, error, isBusy, render } = usePlan(project, cells, wanted, profileId, isSeparate);
  const go = async () => {
    if (await render()) close();
  };
  const canRender = plan !== undefined && plan.errors.length === 0 && !isBusy;
  const isSequence = plan !== undefined && isOfFrames(plan);
  const ofCells = cells.length ? `Render ${plural(cells.length, 'cell')}` : 'Render cells';
  const words = isSequence ? `Render ${plural(picturesIn(plan), 'picture')}` : ofCells;
  return (
    <aside className={styles.plan} aria-label="Plan" data-tour="plan">
      <Selected cells={cells.length} plan={plan} />
      {/* what is there already stands before the plan, so that it does not move when the plan comes */}
      <ReviewLink project={project} cells={cells} />
      <div className={styles.profile}>
        <Select
          size="xs"
          aria-label="Profile"
          allowDeselect={false}
          data={grouped(profiles)}
          value={profileId}
          onChange={(id) => id && setProfileId(id)}
        />
        <button type="button" className="quiet" onClick={() => setOpened('profiles')}>
          Profiles…
        </button>
      </div>
      {hasSequences && <Frames which={which} wanted={wanted} onChange={setWhich} />}
      {error && <div className="notice">{error.message}</div>}
      {plan && <PlanSummary plan={plan} />}
      {plan && picturesIn(plan) > plan.traces.length && (
        <div className="dim">Cells that differ in grade or in light alone share a trace.</div>
      )}
      {plan && <SharedTraces plan={plan} isSeparate={isSeparate} onSeparate={setSeparate} />}
      {plan && <MeasureFirst projectId={project.id} plan={plan} />}
      {plan && <MakeItFit project={project} plan={plan} profileId={profileId} />}
      {plan && <PlanRemarks plan={plan} project={project} />}
      {profile && (
        <Exceptions project={project} profileId={profileId} cells={cells} onOpen={() => setOpened('exceptions')} />
      )}
      {plan && <Files plan={plan} onNames={() => setOpened('names')} />}
      <DevelopCells project={project} cells={cells} />
      {cells.length === 1 && <OneCell project={project} cell={cells[0]!} />}
      <div className={`${styles.stack} ${styles.actions}`}>
        <button type="button" className="quiet" disabled={!plan} onClick={() => setOpened('plan')}>
          Show the plan
        </button>
        <button type="button" className="go" disabled={!canRender} onClick={() => void go()}>
          {words}
        </button>
      </div>
      <Modal opened={opened === 'plan' && plan !== undefined} onClose={close} title="The plan" size={1040}>
        {plan && <WholePlan plan={plan} project={project} />}
      </Modal>
      {opened === 'profiles' && (
        <ProfilesDialog project={project} profileId={profileId} onSelect={setProfileId} onClose={close} />
      )}
      {opened === 'exceptions' && profile && (
        <ExceptionsDialog project={project} profile={profile} cells={cells} onClose={close} />
      )}
      {opened === 'names' && profile && <NamesDialog project={project} profile={profile} onClose={close} />}
    </aside>
  );
}

function Selected({ cells, plan }: { cells: number; plan: Plan | undefined }) {
  return (
    <div>
      <h4>Selected</h4>
      <div className={styles.status} role="status">
        {cells === 0 ? 'No cell' : plural(cells, 'cell')}
        {plan && (isOfFrames(plan) ? `, ${plural(picturesIn(plan), 'picture')}` : '')}
        {plan && ` from ${plural(plan.traces.length, 'trace')}`}
      </div>
      {cells === 0 && (
        <p className="dim">
          Click a cell, add others with Ctrl or a block with Shift, or take a whole row or column by its name.
        </p>
      )}
    </div>
  );
}

const isOfFrames = (plan: Plan): boolean => plan.traces.some((t) => t.cells[0]!.frame !== null);
const picturesIn = (plan: Plan): number => plan.traces.reduce((n, t) => n + t.cells.length, 0);

/** Of sequences, all frames or those that are wanting. */
function Frames({
  which,
  wanted,
  onChange,
}: {
  which: WhichFrames;
  wanted: readonly unknown[] | undefined;
  onChange: (which: WhichFrames) => void;
}) {
  return (
    <div>
      <Select
        size="xs"
        aria-label="Frames to render"
        allowDeselect={false}
        data={[
          { value: 'all', label: 'All frames' },
          { value: 'needed', label: 'Frames that are not up to date' },
        ]}
        value={which}
        onChange={(value) => onChange(value as WhichFrames)}
      />
      {wanted?.length === 0 && <div className="dim">All frames are up to date, or wait already.</div>}
    </div>
  );
}

/** How many of the selected cells are rendered otherwise. */
function Exceptions({
  project,
  profileId,
  cells,
  onOpen,
}: {
  project: Project;
  profileId: string;
  cells: readonly BoardCell[];
  onOpen: () => void;
}) {
  const all = project.exceptions as readonly ProfileException[];
  const excepted = cells.filter((c) => exceptionsOf(all, profileId, c).length > 0);
  const settings = Object.assign(
    {},
    ...excepted.flatMap((c) => exceptionsOf(all, profileId, c).map((e) => e.settings)),
  );
  if (!cells.length && !all.length) return null;
  return (
    <div className={styles.line}>
      <span className="dim">
        {excepted.length ? `${plural(excepted.length, 'cell')} otherwise: ${settingWords(settings)}` : 'No exceptions'}
      </span>
      <button type="button" className="quiet" onClick={onOpen}>
        Exceptions…
      </button>
    </div>
  );
}

function Files({ plan, onNames }: { plan: Plan; onNames: () => void }) {
  const cells = plan.traces.flatMap((t) => t.cells);
  return (
    <div>
      <div className={styles.line}>
        <h4>Files</h4>
        <button type="button" className="quiet" onClick={onNames}>
          Names…
        </button>
      </div>
      <div className={`mono dim ${styles.fileNames}`}>
        {cells.slice(0, FILES_NAMED).map((c) => (
          <div key={c.path}>{namesOf(c)}</div>
        ))}
        {cells.length > FILES_NAMED && <div>and {plural(cells.length - FILES_NAMED, 'more picture')}</div>}
      </div>
    </div>
  );
}

/** The path, and what is written under it: "stall/front_v001.exr, .png". */
function namesOf({ path, files }: Plan['traces'][number]['cells'][number]): string {
  return files.map((file, i) => (i === 0 ? file : file.slice(path.length))).join(', ');
}
