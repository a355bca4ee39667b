// A picture in tiles, at its full size and at halves of it, down to one tile: what is looked at is read at about the
// size that it is shown in, however large the whole is.
export const TILE_PX = 256;

export interface PictureSize {
  readonly widthPx: number;
  readonly heightPx: number;
}
export interface PyramidLevel extends PictureSize {
  /** Tiles. */
  readonly columns: number;
  readonly rows: number;
}
/** Of a level, from its left and top. Those at the right and the bottom may be cut. */
export interface TileAt {
  readonly level: number;
  readonly x: number;
  readonly y: number;
}

/** The whole picture first; of each next level a pixel is the mean of four, or of what there is of them. */
export function levelsOf({ widthPx, heightPx }: PictureSize): PyramidLevel[] {
  const columns = Math.ceil(widthPx / TILE_PX);
  const rows = Math.ceil(heightPx / TILE_PX);
  const level = { widthPx, heightPx, columns, rows };
  if (columns * rows <= 1) return [level];
  return [level, ...levelsOf({ widthPx: Math.ceil(widthPx / 2), heightPx: Math.ceil(heightPx / 2) })];
}

export const tileSize = ({ widthPx, heightPx }: PyramidLevel, x: number, y: number): PictureSize => ({
  widthPx: Math.min(TILE_PX, widthPx - x * TILE_PX),
  heightPx: Math.min(TILE_PX, heightPx - y * TILE_PX),
});

/** Where a tile stands among all: level after level, row after row. */
export function tileIndex(levels: readonly PyramidLevel[], { level, x, y }: TileAt): number {
  const before = levels.slice(0, level).reduce((n, l) => n + l.columns * l.rows, 0);
  return before + y * levels[level]!.columns + x;
}
export const isTileOf = (levels: readonly PyramidLevel[], { level, x, y }: TileAt): boolean => {
  const of = levels[level];
  return of !== undefined && x < of.columns && y < of.rows;
};
/** The smallest level that has at least so many pixels across; the whole picture where none has. */
export function levelFor(levels: readonly PyramidLevel[], widthPx: number): number {
  return Math.max(
    0,
    levels.findLastIndex((l) => l.widthPx >= widthPx),
  );
}
