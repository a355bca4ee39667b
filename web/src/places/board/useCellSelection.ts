// The cells of the board and which of them are selected: part of the address, so that a link opens the same selection.
import type { BoardCell, CellStatus, Project } from '@variscen/contract';
import { useEffect, useMemo, useState } from 'react';
import { useBoard } from '../../api/queries.ts';
import { cellsFromAddress, cellsToAddress } from '../../model/cellsInAddress.ts';
import { type Act, type Chosen, type Grid, NOTHING, cellKey, choose } from '../../model/chosenCells.ts';
import { useAddress } from '../../ui/address.ts';

export interface CellSelection {
  /** By cellKey; empty until the board has arrived. */
  readonly cells: ReadonlyMap<string, BoardCell>;
  readonly keysByStatus: ReadonlyMap<CellStatus, readonly string[]>;
  readonly chosen: Chosen;
  /** The selected cells in the board's order, however they were selected. */
  readonly planned: readonly BoardCell[];
  act(a: Act): void;
}

export function useCellSelection(project: Project): CellSelection {
  const { data: board } = useBoard(project.id);
  const [search, put] = useAddress();
  const cells = useMemo(() => new Map((board?.cells ?? []).map((c) => [cellKey(c.cameraId, c.variantId), c])), [board]);
  // what is not told of yet can be chosen: a click does not wait for the board to arrive
  const grid: Grid = useMemo(
    () => ({
      rows: project.cameras.map((c) => c.id),
      columns: project.variants.map((v) => v.id),
      choosable: (k) => cells.get(k)?.status !== 'excluded',
    }),
    [project, cells],
  );
  const [picked, setPicked] = useState<Chosen>(() => ({
    ...NOTHING,
    keys: new Set(cellsFromAddress(search.get('cells') ?? '', grid)),
  }));
  // of what was picked before the board arrived, or is left out since, only what can be chosen counts
  const chosen = useMemo(() => ({ ...picked, keys: new Set([...picked.keys].filter(grid.choosable)) }), [picked, grid]);
  const planned = useMemo(
    () => inOrder(grid, chosen.keys).flatMap((key) => cells.get(key) ?? []),
    [grid, chosen, cells],
  );
  const keysByStatus = useMemo(() => byStatus(cells), [cells]);
  const choice = useMemo(() => cellsToAddress(chosen.keys, grid), [chosen.keys, grid]);
  useEffect(() => {
    if (choice !== (search.get('cells') ?? '')) put({ cells: choice || null });
  }, [choice, search, put]);
  return { cells, keysByStatus, chosen, planned, act: (a) => setPicked((s) => choose(s, a, grid)) };
}

function inOrder({ rows, columns }: Grid, keys: ReadonlySet<string>): string[] {
  if (!keys.size) return [];
  return rows.flatMap((row) => columns.map((column) => cellKey(row, column))).filter((key) => keys.has(key));
}

function byStatus(cells: ReadonlyMap<string, BoardCell>): ReadonlyMap<CellStatus, readonly string[]> {
  const out = new Map<CellStatus, string[]>();
  for (const [key, { status }] of cells) out.set(status, [...(out.get(status) ?? []), key]);
  return out;
}
