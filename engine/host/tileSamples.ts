// How many samples the tiles of a film have.
import * as K from '../kernel/layout/index.ts';
import { filmGridOf } from './filmGrid.ts';
import type { MemoryPlan } from './memoryPlaces.ts';
import type { RenderSettings } from './renderSettings.ts';
import type { Views } from './views.ts';

/** Samples that a pixel of the film has, by its place in it. */
export function tileSamples(v: Views, plan: MemoryPlan, settings: RenderSettings): (x: number, y: number) => number {
  const { cutLeft, cutTop, tilesAcross } = filmGridOf(settings);
  const tiles = plan.tileState >>> 2;
  return (x, y) => {
    const across = Math.floor((x + cutLeft) / K.TILE.WIDTH);
    const down = Math.floor((y + cutTop) / K.TILE.HEIGHT);
    return v.i32[tiles + down * tilesAcross + across]! & (K.TILE.FINISHED - 1);
  };
}
