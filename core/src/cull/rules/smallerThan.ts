// Which boxes are smaller in a camera's picture than so many pixels across, however they are turned and wherever in the
// frame they would be.
import { type CameraSettings, halfHeightOf } from '../../scene/index.ts';
import { type Box, ballOf } from '../box.ts';

/** @param pixels of the finished picture, at the camera's frame size */
export function isSmallerThan(box: Box, camera: CameraSettings, pixels: number): boolean {
  const { centre, radiusM } = ballOf(box);
  const m = camera.matrix;
  const nearestM = Math.hypot(centre[0] - m[12]!, centre[1] - m[13]!, centre[2] - m[14]!) - radiusM;
  const halfHeight = halfHeightOf(camera);
  if (camera.projection === 'orthographic') return (radiusM / halfHeight) * camera.heightPx < pixels;
  return nearestM > 0 && (radiusM / (halfHeight * nearestM)) * camera.heightPx < pixels;
}
