// The part of the frame that the film holds, and the tiles over it. Tiles are those of the whole frame, wherever a
// region begins: what is decided by tile (how many samples it gets) is then the same for the frame and for each part.
import { TILE } from '../kernel/layout/index.ts';
import { type Region, type RenderSettings, regionOf } from './renderSettings.ts';

export interface FilmGrid extends Region {
  /** Tiles over the film, those that it cuts included. */
  readonly tilesAcross: number;
  readonly tilesDown: number;
  /** Pixels of the first tile that lie before the film. */
  readonly cutLeft: number;
  readonly cutTop: number;
}
/** Rows of tiles of the film, counted from its top: from, up to but without to. */
export interface TileRows {
  readonly from: number;
  readonly to: number;
}

/**
 * With a noise threshold the film holds whole tiles, even where the region asks for a part of one: whether a tile is
 * quiet is judged by all of its pixels.
 */
export function filmGridOf(s: RenderSettings): FilmGrid {
  const region = s.noise ? widened(regionOf(s), s) : regionOf(s);
  const cutLeft = region.left % TILE.WIDTH;
  const cutTop = region.top % TILE.HEIGHT;
  return {
    ...region,
    cutLeft,
    cutTop,
    tilesAcross: Math.ceil((cutLeft + region.widthPx) / TILE.WIDTH),
    tilesDown: Math.ceil((cutTop + region.heightPx) / TILE.HEIGHT),
  };
}

function widened(r: Region, frame: RenderSettings): Region {
  const left = r.left - (r.left % TILE.WIDTH);
  const top = r.top - (r.top % TILE.HEIGHT);
  const end = (at: number, tile: number, most: number) => Math.min(most, Math.ceil(at / tile) * tile);
  return {
    left,
    top,
    widthPx: end(r.left + r.widthPx, TILE.WIDTH, frame.widthPx) - left,
    heightPx: end(r.top + r.heightPx, TILE.HEIGHT, frame.heightPx) - top,
  };
}

export const tilesOf = (g: FilmGrid): number => g.tilesAcross * g.tilesDown;

/** Rows of the film's pixels that lie in rows of its tiles: from, up to but without to. */
export function pixelRowsOf(g: FilmGrid, rows: TileRows): { readonly from: number; readonly to: number } {
  const at = (row: number) => Math.min(g.heightPx, Math.max(0, row * TILE.HEIGHT - g.cutTop));
  return { from: at(rows.from), to: at(rows.to) };
}

/** Takes the region out of a film's plane, in its place: floats a pixel, one layer after another. */
/** Whether the film is larger than what is asked for. */
export function isCut(s: RenderSettings): boolean {
  const film = filmGridOf(s);
  const region = regionOf(s);
  return film.widthPx !== region.widthPx || film.heightPx !== region.heightPx;
}
export function cropped(data: Float32Array, floats: number, layers: number, s: RenderSettings): Float32Array {
  const film = filmGridOf(s);
  const region = regionOf(s);
  if (!isCut(s)) return data;
  const row = region.widthPx * floats;
  for (let layer = 0; layer < layers; layer++) {
    for (let y = 0; y < region.heightPx; y++) {
      const line = (layer * film.heightPx + y + region.top - film.top) * film.widthPx;
      const from = (line + region.left - film.left) * floats;
      data.copyWithin((layer * region.heightPx + y) * row, from, from + row);
    }
  }
  return data.subarray(0, layers * region.heightPx * row);
}
