// Lights and cameras of a scene file. What glTF cannot say of them, files that Variscen exported say in extras.
import type { Node } from '@gltf-transform/core';
import type { Light } from '@gltf-transform/extensions';
import { FAR_M, type Rgb, type SceneCamera, type SceneLight } from '../scene/index.ts';

/** The real sun's; glTF suns are infinitely small. */
const SUN_ANGLE_RAD = 0.0093;

interface OwnLight {
  readonly type?: unknown;
  readonly widthM?: unknown;
  readonly heightM?: unknown;
  readonly color?: unknown;
  readonly nits?: unknown;
  readonly radiusM?: unknown;
}

export function readLight(node: Node): SceneLight | undefined {
  const light = node.getExtension<Light>('KHR_lights_punctual');
  const own = node.getExtras()['variscen_light'] as OwnLight | undefined;
  const panel = own && readPanel(own);
  if (panel) return panel;
  if (!light) return undefined;
  const color = light.getColor() as unknown as Rgb;
  const intensity = light.getIntensity();
  const radiusM = isPositive(own?.radiusM) ? own.radiusM : 0;
  switch (light.getType()) {
    case 'directional':
      return { type: 'sun', color, intensity, angularDiameterRad: SUN_ANGLE_RAD };
    case 'point':
      return { type: 'point', color, intensity, radiusM };
    default:
      return {
        type: 'spot',
        color,
        intensity,
        radiusM,
        innerConeRad: light.getInnerConeAngle(),
        outerConeRad: light.getOuterConeAngle(),
      };
  }
}

function readPanel({ type, widthM, heightM, color, nits, radiusM }: OwnLight): SceneLight | undefined {
  if (!isPositive(nits)) return undefined;
  const isColor = Array.isArray(color) && color.length === 3 && color.every((x) => typeof x === 'number');
  const c = isColor ? (color as unknown as Rgb) : ([1, 1, 1] as const);
  if ((type === 'disc' || type === 'ball') && isPositive(radiusM)) return { type, radiusM, color: c, intensity: nits };
  if (type === 'rectangle' && isPositive(widthM) && isPositive(heightM))
    return { type: 'rectangle', widthM, heightM, color: c, intensity: nits };
  return undefined;
}

export function readCamera(node: Node): SceneCamera | undefined {
  const camera = node.getCamera();
  if (!camera) return undefined;
  const own = node.getExtras()['variscen_camera'] as
    { widthPx?: unknown; heightPx?: unknown; focusDistanceM?: unknown; fStop?: unknown } | undefined;
  const perspective = camera.getType() === 'perspective';
  const aspect = perspective ? (camera.getAspectRatio() ?? 16 / 9) : camera.getXMag() / camera.getYMag();
  const usualWidthPx = aspect >= 1 ? 1920 : Math.round(1920 * aspect);
  const widthPx = isPositive(own?.widthPx) ? Math.round(own.widthPx) : usualWidthPx;
  const heightPx = isPositive(own?.heightPx) ? Math.round(own.heightPx) : Math.max(1, Math.round(widthPx / aspect));
  return {
    projection: perspective ? 'perspective' : 'orthographic',
    halfHeight: perspective ? Math.tan(camera.getYFov() / 2) : camera.getYMag(),
    nearM: Math.max(0.001, camera.getZNear()),
    farM: Number.isFinite(camera.getZFar()) && camera.getZFar() ? camera.getZFar()! : FAR_M,
    widthPx,
    heightPx,
    ...(isPositive(own?.focusDistanceM) && { focusDistanceM: own.focusDistanceM }),
    ...(isPositive(own?.fStop) && { fStop: own.fStop }),
  };
}

const isPositive = (x: unknown): x is number => typeof x === 'number' && Number.isFinite(x) && x > 0;
