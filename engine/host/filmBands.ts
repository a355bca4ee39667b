// Where the film of some rows of tiles lies in the engine's memory: sums, planes and the state of the tiles, one after
// another. Their bytes in this order are what a slice of a picture comes to.
import type { MemoryPlan } from './memoryPlaces.ts';
import { type TileRows, filmGridOf, pixelRowsOf } from './filmGrid.ts';
import { EngineError } from './scene.ts';
import { PLANE_SPECS, type RenderSettings, layersOf, planesOf } from './renderSettings.ts';

export interface Segment {
  /** Address of its first byte. */
  readonly at: number;
  readonly bytes: number;
}

/** @throws EngineError BAD_SETTINGS for rows that the film has not */
export function bandOf(
  plan: Pick<MemoryPlan, 'film' | 'planes' | 'tileState'>,
  settings: RenderSettings,
  rows: TileRows,
): Segment[] {
  const grid = filmGridOf(settings);
  const isThere = Number.isInteger(rows.from) && Number.isInteger(rows.to) && rows.from >= 0 && rows.from < rows.to;
  if (!isThere || rows.to > grid.tilesDown)
    throw new EngineError(
      'BAD_SETTINGS',
      `Rows of tiles ${rows.from} to ${rows.to} are not in this film, which has ${grid.tilesDown}.`,
    );
  const pixels = pixelRowsOf(grid, rows);
  const rowsOf = (at: number, floats: number): Segment => {
    const rowBytes = grid.widthPx * floats * 4;
    return { at: at + pixels.from * rowBytes, bytes: (pixels.to - pixels.from) * rowBytes };
  };
  const segments = [rowsOf(plan.film, 4)];
  for (const name of planesOf(settings)) {
    const floats = PLANE_SPECS[name][1];
    const layers = layersOf(name, settings);
    const layerBytes = grid.widthPx * grid.heightPx * floats * 4;
    for (let layer = 0; layer < layers; layer++) segments.push(rowsOf(plan.planes[name]! + layer * layerBytes, floats));
  }
  const tiles = (row: number) => row * grid.tilesAcross * 4;
  segments.push({ at: plan.tileState + tiles(rows.from), bytes: tiles(rows.to) - tiles(rows.from) });
  return segments;
}

export const bytesOf = (segments: readonly Segment[]): number => segments.reduce((n, s) => n + s.bytes, 0);
