// Below the board: cells by their state, and how large their pictures are.
import { Select, Slider } from '@mantine/core';
import type { CellStatus, Project, Verdict } from '@variscen/contract';
import { useJudged } from '../../session/useReviews.ts';
import { STATUS_WORDS, StateMark } from '../../ui/glyphs.tsx';
import { VERDICT_WORDS, VerdictMark } from '../../ui/VerdictMark.tsx';
import styles from './BoardFooter.module.css';
import { grouped, useProfileList } from './profiles/useProfileList.ts';
import type { CellSelection } from './useCellSelection.ts';

const VERDICTS: readonly Verdict[] = ['approved', 'rejected'];
const SHOWN: readonly CellStatus[] = ['current', 'outdated', 'rendering', 'waiting', 'failed', 'never'];

/** Cells by what was said of their latest pictures. */
function ByVerdict({ project, selection: { cells, act } }: Pick<Props, 'project' | 'selection'>) {
  const { ofPicture } = useJudged(project.id);
  return VERDICTS.map((verdict) => {
    const keys = [...cells].flatMap(([key, { render }]) =>
      render && ofPicture.get(render.id)?.verdict === verdict ? [key] : [],
    );
    if (!keys.length) return null;
    return (
      <button
        type="button"
        key={verdict}
        onClick={() => act({ type: 'these', keys })}
        title={`Select these: ${VERDICT_WORDS[verdict]}`}
        className={styles.statusFilter}
      >
        <VerdictMark verdict={verdict} />
        {VERDICT_WORDS[verdict]} {keys.length}
      </button>
    );
  });
}

interface Props {
  project: Project;
  selection: CellSelection;
  size: number;
  onSize: (px: number) => void;
}
export function BoardFooter({ project, selection, size, onSize }: Props) {
  const { cells, keysByStatus, act, ofProfile, showProfile } = selection;
  const profiles = useProfileList(project);
  return (
    <div className={styles.byStatus}>
      <button type="button" onClick={() => act({ type: 'these', keys: [...cells.keys()] })} className={styles.all}>
        All {cells.size}
      </button>
      {SHOWN.flatMap((status) => {
        const keys = keysByStatus.get(status);
        if (!keys) return [];
        return (
          <button
            type="button"
            key={status}
            onClick={() => act({ type: 'these', keys })}
            title={`Select these: ${STATUS_WORDS[status]}`}
            className={styles.statusFilter}
          >
            <StateMark status={status} />
            {STATUS_WORDS[status]} {keys.length}
          </button>
        );
      })}
      <ByVerdict project={project} selection={selection} />
      <Select
        size="xs"
        aria-label="Pictures of the profile"
        placeholder="Any profile"
        clearable
        w={150}
        className={styles.ofProfile}
        data={grouped(profiles)}
        value={ofProfile}
        onChange={showProfile}
      />
      <label className={styles.sizeOfPictures}>
        Size of pictures
        <Slider
          size={3}
          thumbSize={12}
          label={null}
          color="gray"
          min={72}
          max={320}
          value={size}
          onChange={onSize}
          className={styles.sizeSlider}
          thumbLabel="Size of pictures"
        />
      </label>
    </div>
  );
}
