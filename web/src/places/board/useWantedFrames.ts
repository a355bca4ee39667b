// Which pictures of the selected cells are to be rendered: all, or of sequences those that are not up to date.
import { useQueries } from '@tanstack/react-query';
import type { BoardCell, CellStatus, PlanRequest } from '@variscen/contract';
import { cellFramesQuery } from './SequenceFrames.tsx';

export type WhichFrames = 'all' | 'needed';
const NEEDED: ReadonlySet<CellStatus> = new Set(['never', 'outdated', 'failed']);

/** @returns undefined while it is not known yet */
export function useWantedFrames(
  projectId: string,
  cells: readonly BoardCell[],
  which: WhichFrames,
  profileId: string,
): PlanRequest['cells'] | undefined {
  const refs = cells.map(({ cameraId, variantId }) => ({ cameraId, variantId }));
  const sequences = which === 'all' ? [] : refs.filter((_, i) => cells[i]!.frames !== null);
  const asked = useQueries({
    queries: sequences.map((ref) => cellFramesQuery({ projectId, ...ref }, profileId)),
  });
  if (which === 'all') return refs;
  if (asked.some((a) => !a.data)) return undefined;
  const framesOf = new Map(sequences.map((ref, i) => [ref, asked[i]!.data!]));
  return refs.flatMap((ref) => {
    const frames = framesOf.get(ref);
    if (!frames) return [ref];
    const needed = frames.filter((f) => NEEDED.has(f.status)).map((f) => f.frame);
    return needed.length ? [{ ...ref, frames: needed }] : [];
  });
}
