// Which boxes lie wholly in front of a camera's near plane or beyond its far plane: what the planes cut away of the
// picture still casts light and shadow, unless it is left out.
import type { CameraSettings } from '../../scene/index.ts';
import type { Box } from '../box.ts';

export function isOutsidePlanes({ corners, grownM }: Box, { matrix: m, nearM, farM }: CameraSettings): boolean {
  const length = Math.hypot(m[8]!, m[9]!, m[10]!) || 1;
  let nearest = Infinity;
  let farthest = -Infinity;
  for (const c of corners)
    for (let i = 0; i < 24; i += 3) {
      // along the viewing direction, −Z
      const depth = -((c[i]! - m[12]!) * m[8]! + (c[i + 1]! - m[13]!) * m[9]! + (c[i + 2]! - m[14]!) * m[10]!) / length;
      nearest = Math.min(nearest, depth);
      farthest = Math.max(farthest, depth);
    }
  return farthest + grownM < nearM || nearest - grownM > farM;
}
