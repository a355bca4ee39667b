// The cells of the board and which of them are selected: part of the address, so that a link opens the same selection.
import type { BoardCell, CellStatus, Project } from '@variscen/contract';
import { useEffect, useMemo, useState } from 'react';
import { useBoard } from '../../api/queries.ts';
import { cellsFromAddress, cellsToAddress } from '../../model/cellsInAddress.ts';
import { type Act, type SelectedCells, type Grid, NOTHING, cellKey, select } from '../../model/selectedCells.ts';
import { useAddress } from '../../ui/address.ts';

export interface CellSelection {
  /** By cellKey; empty until the board has arrived. */
  readonly cells: ReadonlyMap<string, BoardCell>;
  readonly keysByStatus: ReadonlyMap<CellStatus, readonly string[]>;
  readonly selected: SelectedCells;
  /** The selected cells in the board's order, however they were selected. */
  readonly planned: readonly BoardCell[];
  act(a: Act): void;
  /** Cells are as they are in this profile; null: by their latest picture, whatever its profile. */
  readonly ofProfile: string | null;
  showProfile(id: string | null): void;
}

export function useCellSelection(project: Project): CellSelection {
  const [search, put] = useAddress();
  const ofProfile = search.get('profile');
  const { data: board } = useBoard(project.id, ofProfile);
  const cells = useMemo(() => new Map((board?.cells ?? []).map((c) => [cellKey(c.cameraId, c.variantId), c])), [board]);
  // what is not told of yet can be selected: a click does not wait for the board to arrive
  const grid: Grid = useMemo(
    () => ({
      rows: project.cameras.map((c) => c.id),
      columns: project.variants.map((v) => v.id),
      selectable: (k) => cells.get(k)?.status !== 'excluded',
    }),
    [project, cells],
  );
  const [picked, setPicked] = useState<SelectedCells>(() => ({
    ...NOTHING,
    keys: new Set(cellsFromAddress(search.get('cells') ?? '', grid)),
  }));
  // of what was picked before the board arrived, or is left out since, only what can be selected counts
  const selected = useMemo(
    () => ({ ...picked, keys: new Set([...picked.keys].filter(grid.selectable)) }),
    [picked, grid],
  );
  const planned = useMemo(
    () => inOrder(grid, selected.keys).flatMap((key) => cells.get(key) ?? []),
    [grid, selected, cells],
  );
  const keysByStatus = useMemo(() => byStatus(cells), [cells]);
  const choice = useMemo(() => cellsToAddress(selected.keys, grid), [selected.keys, grid]);
  useEffect(() => {
    if (choice !== (search.get('cells') ?? '')) put({ cells: choice || null });
  }, [choice, search, put]);
  return {
    cells,
    keysByStatus,
    selected,
    planned,
    act: (a) => setPicked((s) => select(s, a, grid)),
    ofProfile,
    showProfile: (id) => put({ profile: id }),
  };
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
