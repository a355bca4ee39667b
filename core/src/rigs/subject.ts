// What a rig is built about.
import {
  type CameraSettings,
  type Rgb,
  type SceneDocument,
  axisScales,
  halfHeightOf,
  sceneBox,
} from '../scene/index.ts';

export interface Subject {
  readonly middle: Rgb;
  readonly radiusM: number;
  /** The ground that it stands on. */
  readonly floorM: number;
}

const LEAST_RADIUS_M = 0.005;
export function subjectOfBox({ min, max }: { readonly min: Rgb; readonly max: Rgb }): Subject {
  const radiusM = Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2]) / 2;
  return {
    middle: [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2],
    radiusM: Math.max(LEAST_RADIUS_M, radiusM),
    floorM: min[1],
  };
}

/** Of the frame's height this is filled by what a camera focuses on. */
const FOCUS_SHARE = 0.85;
/** What a camera focuses on: a ball that fills most of its frame there, no larger than the scene. */
export function subjectOfCamera(document: SceneDocument, camera: CameraSettings): Subject {
  const m = camera.matrix;
  const length = axisScales(m)[2] || 1;
  const [x, y, z] = [0, 1, 2].map((k) => m[12 + k]! - (m[8 + k]! / length) * camera.focusDistanceM) as [
    number,
    number,
    number,
  ];
  const isFlat = camera.projection === 'orthographic';
  const fills = halfHeightOf(camera) * (isFlat ? 1 : camera.focusDistanceM) * FOCUS_SHARE;
  const box = sceneBox(document);
  const most = box ? subjectOfBox(box).radiusM : fills;
  const radiusM = Math.max(LEAST_RADIUS_M, Math.min(fills, most));
  return { middle: [x, y, z], radiusM, floorM: Math.max(box?.min[1] ?? -Infinity, y - radiusM) };
}
