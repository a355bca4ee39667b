// Which boxes are wholly farther from a camera than a distance.
import type { CameraSettings } from '../../scene/index.ts';
import { type Box, ballOf } from '../box.ts';

export function isFartherThan(box: Box, { matrix: m }: CameraSettings, distanceM: number): boolean {
  const { centre, radiusM } = ballOf(box);
  return Math.hypot(centre[0] - m[12]!, centre[1] - m[13]!, centre[2] - m[14]!) - radiusM > distanceM;
}
