// How much longer traces take that do not fit in the budget, by what was measured of their cells.
import type { Project } from '@variscen/contract';
import { partsNeeded, slowerInTurns } from '@variscen/core/cull';
import { frameSize } from '@variscen/core/plan';
import { cellKey } from '../work/looksTasks.ts';
import type { PlannedTrace } from '../work/tasks.ts';
import type { CullService } from './cull.ts';
import type { PlannedCell } from './plannedGroups.ts';

/** Cells of which it is seen whether they were measured. */
export const MOST_ASKED_ABOUT = 400;

/** With little room, nobody waits for what takes so many times as long. */
const MOST_TIMES = 10;
export const isEndless = (times: number | null): boolean => times === null || times > MOST_TIMES;

interface Group {
  readonly cells: readonly PlannedCell[];
}
type InTurns = Pick<PlannedTrace, 'turnsBytes' | 'partsBytes'>;

/** Of each trace about how many times as long it takes: 1 where what rays reach has room; null: it was not measured. */
export async function slowdowns(
  culls: Pick<CullService, 'costs'>,
  p: Project,
  groups: readonly Group[],
  planned: readonly InTurns[],
): Promise<(number | null)[]> {
  const over = groups.flatMap(({ cells }, i) => (planned[i]!.turnsBytes > 0 ? cells : []));
  const cells = [...new Map(over.map((cell) => [cellKey(cell), cell])).values()].slice(0, MOST_ASKED_ABOUT);
  const costs = cells.length ? await culls.costs(p, cells) : [];
  const reached = new Map(cells.map((cell, i) => [cellKey(cell), costs[i]!.reached]));
  const neededBy = (cell: PlannedCell): number | null => {
    const known = reached.get(cellKey(cell));
    return known ? partsNeeded(known, frameSize(cell.profile, cell.inputs.camera)) : null;
  };
  return groups.map((group, i) => slowerFor(planned[i]!, group, neededBy));
}

function slowerFor(
  { turnsBytes, partsBytes }: InTurns,
  { cells }: Group,
  neededBy: (cell: PlannedCell) => number | null,
): number | null {
  if (turnsBytes === 0) return 1;
  let most = 0;
  for (const cell of cells) {
    const needed = neededBy(cell);
    if (needed === null) return null;
    most = Math.max(most, needed);
  }
  return slowerInTurns(most, partsBytes - turnsBytes);
}
