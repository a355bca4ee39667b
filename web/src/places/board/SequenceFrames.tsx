// The frames of a sequence by their state, and its preview film.
import { useQuery } from '@tanstack/react-query';
import type { CellFrame, CellStatus, FrameCounts } from '@variscen/contract';
import { sayFrames } from '@variscen/core/scene';
import { useState } from 'react';
import { call, pathOf } from '../../api/client.ts';
import { keys } from '../../api/queries.ts';
import { STATUS_WORDS, StateMark } from '../../ui/glyphs.tsx';
import { plural } from '../../ui/format.ts';
import styles from './SequenceFrames.module.css';

interface CellPath {
  readonly projectId: string;
  readonly cameraId: string;
  readonly variantId: string;
}
/** As they stand in the list. */
const STATES: readonly CellStatus[] = ['rendering', 'failed', 'waiting', 'outdated', 'never', 'current', 'excluded'];
const FAULTS_NAMED = 3;

export const cellFramesQuery = (path: CellPath, profileId: string | null) => ({
  queryKey: [...keys.board(path.projectId), 'frames', path.cameraId, path.variantId, profileId],
  queryFn: () =>
    call('cellFrames', { params: { ...path }, ...(profileId !== null && { query: { profileId } }) }) as Promise<
      CellFrame[]
    >,
});

export function SequenceFrames({ path, counts }: { path: CellPath; counts: FrameCounts }) {
  const { data: frames } = useQuery(cellFramesQuery(path, null));
  return (
    <div>
      <h4>{plural(counts.total, 'frame')}</h4>
      {frames && <States frames={frames} />}
      {frames && <Faults frames={frames} />}
      {frames && <Film path={path} frames={frames} />}
    </div>
  );
}

function States({ frames }: { frames: readonly CellFrame[] }) {
  return (
    <ul className={styles.states} aria-label="Frames by state">
      {STATES.map((status) => {
        const of = frames.filter((f) => f.status === status).map((f) => f.frame);
        if (!of.length) return null;
        return (
          <li key={status} className={styles.state}>
            <StateMark status={status} />
            <span>{STATUS_WORDS[status]}</span>
            <span className={`mono ${styles.numbers}`}>{sayFrames(of)}</span>
          </li>
        );
      })}
    </ul>
  );
}

/** Why frames came to nothing, each reason once. */
function Faults({ frames }: { frames: readonly CellFrame[] }) {
  const reasons = [...new Set(frames.flatMap((f) => (f.status === 'failed' && f.trace?.error ? [f.trace.error] : [])))];
  return reasons.slice(0, FAULTS_NAMED).map((reason) => (
    <div key={reason} className="notice">
      {reason}
    </div>
  ));
}

function Film({ path, frames }: { path: CellPath; frames: readonly CellFrame[] }) {
  const [isShown, setShown] = useState(false);
  const [fault, setFault] = useState(false);
  const rendered = frames.filter((f) => f.renderId !== null);
  if (!rendered.length) return null;
  // another film where another picture is in it
  const of = rendered.map((f) => `${f.frame}:${f.version}`).join();
  const src = `${pathOf('cellFilm', { ...path })}?of=${hashOf(of)}`;
  return (
    <div className={styles.film}>
      <button
        type="button"
        className="quiet"
        aria-expanded={isShown}
        onClick={() => {
          setShown(!isShown);
          setFault(false);
        }}
      >
        {isShown ? 'Close the film' : 'Play the film'}
      </button>
      {isShown && !fault && (
        <>
          <img src={src} alt="Preview film" className={styles.picture} onError={() => setFault(true)} />
          <div className={styles.under}>
            <span className="dim">{plural(rendered.length, 'picture')}, 24 frames a second</span>
            <a href={src} download className={styles.save}>
              Save the film
            </a>
          </div>
        </>
      )}
      {fault && <div className="notice">The film could not be made. Look at the frames that are out of date.</div>}
    </div>
  );
}

/** Tells texts apart; no more. FNV-1a. */
function hashOf(text: string): string {
  let h = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193) >>> 0;
  return h.toString(36);
}
