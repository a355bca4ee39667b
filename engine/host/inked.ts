// The drawn look of some objects, from a picture and its layers.
import { drawInk } from '@variscen/core/image';
import { PLANE } from '../kernel/layout/index.ts';
import { cryptomatteId } from './cryptomatte.ts';
import type { Picture } from './film.ts';
import { EngineError } from './scene.ts';

/** Lines are two pixels wide in a frame so wide, and grow with it. */
const LINE_AT_PX = 1400;

/** film (r, g, b, coverage) with the named objects drawn. The picture must have the planes of settingsOf. */
export function inked(p: Picture, film: Float32Array, objects: readonly string[]): Float32Array {
  const { albedo, emission, normal, depth, objects: ranks } = p.planes;
  if (!albedo || !emission || !normal || !depth || !ranks)
    throw new EngineError('BAD_SETTINGS', 'A drawn look needs the layers albedo, emission, normal, depth and objects.');
  const ids = new Set(objects.map(cryptomatteId));
  const n = p.width * p.height;
  const bits = new Uint32Array(ranks.buffer, ranks.byteOffset, ranks.length);
  const object = new Uint32Array(n);
  const drawn = new Float32Array(n);
  const stride = PLANE.CRYPTO_RANKS * 2;
  for (let i = 0; i < n; i++) {
    let most = 0;
    for (let r = 0; r < PLANE.CRYPTO_RANKS; r++) {
      const weight = ranks[i * stride + r * 2 + 1]!;
      const id = bits[i * stride + r * 2]!;
      if (weight > most) {
        most = weight;
        object[i] = id;
      }
      if (weight > 0 && ids.has(id)) drawn[i]! += weight;
    }
  }
  return drawInk(
    { width: p.width, height: p.height, rgba: film, albedo, emission, normal, depth, object, drawn },
    { lineWidthPx: Math.max(1, Math.round((2 * p.width) / LINE_AT_PX)) },
  );
}
