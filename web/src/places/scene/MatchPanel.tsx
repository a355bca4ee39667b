// A newer file of the scene against what is recorded: what goes on, what moved, what is gone and what is new, before
// anything of it is in force. What the rules could not tell is matched by hand here.
import { Checkbox } from '@mantine/core';
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import type { HandMatch, MatchPreview, Project, Revision } from '@variscen/contract';
import { useState } from 'react';
import { call } from '../../api/client.ts';
import { useSession } from '../../session/projectSession.ts';
import { count } from '../../ui/format.ts';
import { say } from '../../ui/notify.ts';
import styles from './MatchPanel.module.css';
import { MatchSummary } from './MatchSummary.tsx';
import { AddedTable, GoneTable, NotableTable } from './MatchTables.tsx';

interface Props {
  project: Project;
  revision: Revision;
  onDone: () => void;
}
export function MatchPanel({ project, revision, onDone }: Props) {
  const [byHand, setByHand] = useState<readonly HandMatch[]>([]);
  const [addCameras, setAddCameras] = useState<readonly string[] | null>(null);
  const [moveCameras, setMoveCameras] = useState<readonly string[]>([]);
  const { isBusy, run } = useDeciding(project, onDone);
  const params = { projectId: project.id, revisionId: revision.id };
  const query = useQuery({
    queryKey: ['match', revision.id, byHand],
    queryFn: () => call('matchRevision', { params, body: { byHand: [...byHand] } }),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
  const { data: look, error, isFetching } = query;
  if (error) return <p className="notice">{error.message}</p>;
  if (!look)
    return (
      <p className="dim" aria-busy>
        Comparing with what is recorded …
      </p>
    );
  const cameras = addCameras ?? look.newCameras;
  const accept = () => {
    const body = { byHand: [...byHand], addCameras: [...cameras], moveCameraIds: [...moveCameras] };
    void run(
      () => call('acceptRevision', { params, body }),
      `Revision ${revision.number} is current`,
      'Ctrl+Z goes back to the one before.',
    );
  };
  const discard = () => void run(() => call('discardRevision', { params }), `Revision ${revision.number} is discarded`);
  return (
    <div aria-busy={isFetching} className={styles.newCameras}>
      <MatchSummary look={look} />
      <CameraChoices look={look} added={cameras} moved={moveCameras} onAdded={setAddCameras} onMoved={setMoveCameras} />
      <div className={styles.row}>
        <button type="button" className="go" disabled={isBusy || isFetching} onClick={accept}>
          Make revision {revision.number} current
        </button>
        <button type="button" className="quiet" disabled={isBusy} onClick={discard}>
          Discard it
        </button>
      </div>
      <Differences look={look} byHand={byHand} onMatch={(gone, to) => setByHand((old) => withMatch(old, gone, to))} />
    </div>
  );
}

function useDeciding(project: Project, onDone: () => void) {
  const client = useQueryClient();
  const session = useSession(project.id);
  const [isBusy, setBusy] = useState(false);
  const run = async (work: () => Promise<Project>, said: string, more = '') => {
    setBusy(true);
    const decided = await session.writeProject(work);
    setBusy(false);
    if (!decided) return;
    await client.invalidateQueries({ queryKey: ['revisions', project.id] });
    say(said, more);
    onDone();
  };
  return { isBusy, run };
}

/** @param to null: it is not told any more */
function withMatch(
  old: readonly HandMatch[],
  { id, kind }: Pick<MatchPreview['gone'][number], 'id' | 'kind'>,
  to: string | null,
): readonly HandMatch[] {
  const material = kind === 'material';
  const others = old.filter((h) => h.from !== id || h.material !== material);
  return to === null ? others : [...others, { material, from: id, to }];
}

interface CameraChoicesProps {
  look: MatchPreview;
  /** Names. */
  added: readonly string[];
  /** Ids. */
  moved: readonly string[];
  onAdded: (names: readonly string[]) => void;
  onMoved: (ids: readonly string[]) => void;
}
function CameraChoices({ look, added, moved, onAdded, onMoved }: CameraChoicesProps) {
  if (!look.newCameras.length && !look.movedCameras.length) return null;
  return (
    <div className={styles.newCamerasList}>
      <h4 className={styles.camerasOfThe}>Cameras of the file</h4>
      {look.newCameras.map((name) => (
        <Checkbox
          key={name}
          size="xs"
          label={`Add “${name}”, which the project does not have`}
          checked={added.includes(name)}
          onChange={() => onAdded(flipped(added, name))}
        />
      ))}
      {look.movedCameras.map(({ cameraId, name }) => (
        <Checkbox
          key={cameraId}
          size="xs"
          label={`Take the file’s new place and lens for “${name}”`}
          checked={moved.includes(cameraId)}
          onChange={() => onMoved(flipped(moved, cameraId))}
        />
      ))}
    </div>
  );
}
const flipped = (list: readonly string[], x: string): readonly string[] =>
  list.includes(x) ? list.filter((y) => y !== x) : [...list, x];

interface DifferencesProps {
  look: MatchPreview;
  byHand: readonly HandMatch[];
  onMatch: Parameters<typeof GoneTable>[0]['onMatch'];
}
function Differences({ look, byHand, onMatch }: DifferencesProps) {
  const [tab, setTab] = useState<'gone' | 'added' | 'notable'>('gone');
  const tabs = [
    ['gone', `Gone ${count(look.gone.length)}`],
    ['added', `New ${count(look.added.length)}`],
    ['notable', `Moved, changed, renamed ${count(look.notableCount)}`],
  ] as const;
  return (
    <div>
      <div className={`tabs ${styles.whatDiffers}`} role="tablist" aria-label="What differs">
        {tabs.map(([id, label]) => (
          <button
            type="button"
            role="tab"
            key={id}
            aria-selected={tab === id}
            onClick={() => setTab(id)}
            className={styles.tab}
          >
            {label}
          </button>
        ))}
      </div>
      {tab === 'gone' && <GoneTable look={look} byHand={byHand} onMatch={onMatch} />}
      {tab === 'added' && <AddedTable look={look} />}
      {tab === 'notable' && <NotableTable look={look} />}
    </div>
  );
}
