// A project's camera: its own settings, independent of the scene file once made.
import type { Crop, CameraSettings } from './cameraShape.ts';
import type { SceneCamera, SceneDocument } from './document.ts';
import type { Matrix, Rgb } from './vectors.ts';
import { movingNodes } from './animation.ts';
import { CAMERA_LIMITS, within } from './cameraLimits.ts';
import { sceneBox } from './deform.ts';
import { IDENTITY, lookAt, worldMatrices } from './matrix.ts';

/** Pixels of the part of a frame that is rendered, at least one. */
export function croppedPx(
  frame: { readonly widthPx: number; readonly heightPx: number },
  crop: Crop | undefined,
): { readonly left: number; readonly top: number; readonly widthPx: number; readonly heightPx: number } {
  const along = (from: number, to: number, n: number): readonly [number, number] => {
    const size = Math.min(n, Math.max(1, Math.round(((to - from) / 100) * n)));
    return [Math.min(n - size, Math.round((from / 100) * n)), size];
  };
  const [left, widthPx] = along(crop?.left ?? 0, crop?.right ?? 100, frame.widthPx);
  const [top, heightPx] = along(crop?.top ?? 0, crop?.bottom ?? 100, frame.heightPx);
  return { left, top, widthPx, heightPx };
}

const SENSOR_WIDTH_MM = 36;

export const depthRangeM = (c: CameraSettings): readonly [number, number] =>
  c.depthRangeM ? [c.depthRangeM.near, c.depthRangeM.far] : [c.nearM, c.farM];

/** Perspective: tangent of half the vertical angle; orthographic: half the height in metres. */
export const halfHeightOf = (c: CameraSettings): number =>
  c.projection === 'orthographic'
    ? c.orthoHalfHeightM
    : ((c.sensorWidthMm / 2 / c.focalLengthMm) * c.heightPx) / c.widthPx;

/** Radius of the lens opening in metres: focal length / (2 f-stop); 0 without one. */
export const lensRadiusM = (c: CameraSettings): number =>
  c.fStop === null || c.projection === 'orthographic' ? 0 : c.focalLengthMm / 1000 / (2 * c.fStop);

/** A camera of a scene file within what a camera may have. */
export function fromSceneCamera(c: SceneCamera, matrix: Matrix): CameraSettings {
  const L = CAMERA_LIMITS;
  const tangent = c.projection === 'perspective' ? c.halfHeight : 0.3;
  const nearM = within(L.nearM, c.nearM);
  const farM = within(L.farM, c.farM);
  return {
    matrix,
    projection: c.projection,
    widthPx: within(L.sizePx, c.widthPx),
    heightPx: within(L.sizePx, c.heightPx),
    sensorWidthMm: SENSOR_WIDTH_MM,
    focalLengthMm: within(L.focalLengthMm, SENSOR_WIDTH_MM / 2 / ((tangent * c.widthPx) / c.heightPx)),
    orthoHalfHeightM: within(L.orthoHalfHeightM, c.projection === 'orthographic' ? c.halfHeight : 1),
    nearM,
    farM: farM > nearM ? farM : nearM * 10,
    focusDistanceM: within(L.focusDistanceM, c.focusDistanceM ?? 3),
    fStop: c.fStop === undefined ? null : within(L.fStop, c.fStop),
    cullMarginPct: null,
  };
}
/** What of a scene file's camera is not as the file has it, since it lies beyond what a camera may have, in words. */
export function beyondLimits(c: SceneCamera): string[] {
  const is = fromSceneCamera(c, IDENTITY);
  const out: string[] = [];
  if (is.widthPx !== c.widthPx || is.heightPx !== c.heightPx)
    out.push(`${is.widthPx} × ${is.heightPx} pixels instead of ${c.widthPx} × ${c.heightPx}`);
  const tangent = ((SENSOR_WIDTH_MM / 2 / is.focalLengthMm) * c.heightPx) / c.widthPx;
  if (c.projection === 'perspective' && Math.abs(tangent / c.halfHeight - 1) > 1e-6)
    out.push(`a focal length of ${is.focalLengthMm} mm`);
  if (c.projection === 'orthographic' && is.orthoHalfHeightM !== c.halfHeight)
    out.push(`a height of ${is.orthoHalfHeightM * 2} m`);
  if (is.nearM !== c.nearM) out.push(`a near plane at ${is.nearM} m`);
  if (is.farM !== c.farM) out.push(`a far plane at ${is.farM} m`);
  return out;
}

/** A camera that sees the whole scene from the front and a little above, for files without one. */
export function cameraForScene(d: SceneDocument): CameraSettings {
  const { min, max } = sceneBox(d) ?? { min: [-0.5, -0.5, -0.5], max: [0.5, 0.5, 0.5] };
  const c: Rgb = [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2];
  const radius = Math.max(1e-3, Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2]) / 2);
  const half = (SENSOR_WIDTH_MM / 2 / 35) * (9 / 16);
  const distance = (radius * 1.02 * Math.hypot(1, half)) / half; // the frame's sides touch the sphere about everything
  return {
    matrix: lookAt([c[0] + distance * 0.35, c[1] + distance * 0.3, c[2] + distance * 0.89], c),
    projection: 'perspective',
    widthPx: 1600,
    heightPx: 900,
    sensorWidthMm: SENSOR_WIDTH_MM,
    focalLengthMm: 35,
    orthoHalfHeightM: radius,
    nearM: Math.max(0.001, radius / 1000),
    farM: radius * 100,
    focusDistanceM: distance,
    fStop: null,
    cullMarginPct: null,
  };
}

export interface NamedCamera {
  readonly name: string;
  readonly settings: CameraSettings;
}
/** Cameras of a scene as a project has them, told apart by name. */
export function sceneCameras(scene: SceneDocument): NamedCamera[] {
  const world = worldMatrices(scene.nodes);
  const moving = movingNodes(scene);
  const taken = new Set<string>();
  return scene.nodes.flatMap((n, i) => {
    if (n.camera === undefined) return [];
    const own = n.name.trim().slice(0, 100) || 'Camera';
    let name = own;
    for (let k = 2; taken.has(name.toLowerCase()); k++) name = `${own} ${k}`;
    taken.add(name.toLowerCase());
    return [
      {
        name,
        settings: {
          ...fromSceneCamera(scene.cameras[n.camera]!, world[i]!),
          ...(moving.has(i) && { follows: n.path }),
        },
      },
    ];
  });
}
