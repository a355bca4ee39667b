// A project's camera: its own settings, independent of the scene file once made.
import type { Crop, CameraSettings } from './cameraShape.ts';
import type { SceneCamera, SceneDocument } from './document.ts';
import type { Matrix } from './vectors.ts';
import { movingNodes } from './animation.ts';
import { lookAt, transformPoint, worldMatrices } from './matrix.ts';

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

export function fromSceneCamera(c: SceneCamera, matrix: Matrix): CameraSettings {
  const tangent = c.projection === 'perspective' ? c.halfHeight : 0.3;
  return {
    matrix,
    projection: c.projection,
    widthPx: c.widthPx,
    heightPx: c.heightPx,
    sensorWidthMm: SENSOR_WIDTH_MM,
    focalLengthMm: SENSOR_WIDTH_MM / 2 / ((tangent * c.widthPx) / c.heightPx),
    orthoHalfHeightM: c.projection === 'orthographic' ? c.halfHeight : 1,
    nearM: c.nearM,
    farM: c.farM,
    focusDistanceM: c.focusDistanceM ?? 3,
    fStop: c.fStop ?? null,
    cullMarginPct: null,
  };
}

/** A camera that sees the whole scene from the front and a little above, for files without one. */
export function cameraForScene(d: SceneDocument): CameraSettings {
  const world = worldMatrices(d.nodes);
  const lo = [Infinity, Infinity, Infinity];
  const hi = [-Infinity, -Infinity, -Infinity];
  d.nodes.forEach((n, i) =>
    n.parts?.forEach((p) =>
      [d.meshes[p.mesh]!.min, d.meshes[p.mesh]!.max].forEach((corner) =>
        transformPoint(world[i]!, corner).forEach((x, k) => {
          lo[k] = Math.min(lo[k]!, x);
          hi[k] = Math.max(hi[k]!, x);
        }),
      ),
    ),
  );
  const c = (lo[0] === Infinity ? [0, 0, 0] : lo.map((x, k) => (x + hi[k]!) / 2)) as [number, number, number];
  const radius =
    lo[0] === Infinity ? 1 : Math.max(1e-3, Math.hypot(hi[0]! - lo[0]!, hi[1]! - lo[1]!, hi[2]! - lo[2]!) / 2);
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
