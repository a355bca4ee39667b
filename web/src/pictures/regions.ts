// Parts of finished pictures, put together of their tiles.
import { TILE_PX, levelsOf } from '@variscen/core/image';
import { type LayerPixels, resampled } from '@variscen/core/review';
import type { OpenedLayer, Region } from './messages.ts';
import type { TileValues } from './tileValues.ts';

/** Pixels of a region that are looked at: of a larger one a smaller level says as much. */
const MOST_REGION_PX = 1 << 20;

/** @param region in pixels of the level, cut to it */
export async function regionOf(
  tiles: TileValues,
  of: OpenedLayer,
  level: number,
  region: Region,
): Promise<LayerPixels> {
  const size = levelsOf(of)[level]!;
  const left = Math.max(0, region.left);
  const top = Math.max(0, region.top);
  const widthPx = Math.min(size.widthPx, region.left + region.widthPx) - left;
  const heightPx = Math.min(size.heightPx, region.top + region.heightPx) - top;
  const { channels } = of;
  const values = new Float32Array(widthPx * heightPx * channels);
  for (let y = Math.floor(top / TILE_PX); y * TILE_PX < top + heightPx; y++)
    for (let x = Math.floor(left / TILE_PX); x * TILE_PX < left + widthPx; x++) {
      const tile = await tiles.tile(of, { level, x, y });
      const from = Math.max(left, x * TILE_PX);
      const to = Math.min(left + widthPx, x * TILE_PX + tile.widthPx);
      const last = Math.min(top + heightPx, y * TILE_PX + tile.heightPx);
      for (let row = Math.max(top, y * TILE_PX); row < last; row++) {
        const at = ((row - y * TILE_PX) * tile.widthPx + (from - x * TILE_PX)) * channels;
        values.set(
          tile.values.subarray(at, at + (to - from) * channels),
          ((row - top) * widthPx + (from - left)) * channels,
        );
      }
    }
  return { widthPx, heightPx, channels, values };
}

/** Of a region of the whole picture, the level that has enough of its pixels. */
export async function seenRegion(
  tiles: TileValues,
  of: OpenedLayer,
  region: Region,
): Promise<{ readonly level: number; readonly left: number; readonly top: number; readonly pixels: LayerPixels }> {
  const levels = levelsOf(of);
  let level = 0;
  while (level + 1 < levels.length && (region.widthPx * region.heightPx) / 4 ** level > MOST_REGION_PX) level++;
  const by = 2 ** level;
  const widthPx = Math.max(1, Math.round(region.widthPx / by));
  const heightPx = Math.max(1, Math.round(region.heightPx / by));
  const left = Math.floor(region.left / by);
  const top = Math.floor(region.top / by);
  return { level, left, top, pixels: await regionOf(tiles, of, level, { left, top, widthPx, heightPx }) };
}

/** What another picture shows where a tile of the first is, pixel for pixel, whatever its own size. */
export async function sameFrame(
  tiles: TileValues,
  to: OpenedLayer,
  of: OpenedLayer,
  level: number,
  region: Region,
): Promise<LayerPixels> {
  const size = levelsOf(of)[level]!;
  const own = levelsOf(to);
  const nearest = own.reduce(
    (best, l, i) =>
      Math.abs(Math.log(l.widthPx / size.widthPx)) < Math.abs(Math.log(own[best]!.widthPx / size.widthPx)) ? i : best,
    0,
  );
  const from = own[nearest]!;
  if (from.widthPx === size.widthPx && from.heightPx === size.heightPx) return regionOf(tiles, to, nearest, region);
  const scale = [from.widthPx / size.widthPx, from.heightPx / size.heightPx] as const;
  // with a pixel around it, for those between
  const left = Math.max(0, Math.floor(region.left * scale[0]) - 1);
  const top = Math.max(0, Math.floor(region.top * scale[1]) - 1);
  const around = await regionOf(tiles, to, nearest, {
    left,
    top,
    widthPx: Math.ceil(region.widthPx * scale[0]) + 3,
    heightPx: Math.ceil(region.heightPx * scale[1]) + 3,
  });
  const within = { ...region, left: region.left - left / scale[0], top: region.top - top / scale[1] };
  return resampled(around, within, scale);
}
