// What a light that looks add is before any look says otherwise.
import type { LightType, SceneLight } from '../scene/index.ts';
import { parseAdded } from './targets.ts';

const WHITE = [1, 1, 1] as const;
const DEGREE = Math.PI / 180;
/** What a light of a type is where no look says otherwise. */
const NEW_LIGHTS: Readonly<Record<LightType, SceneLight>> = {
  sun: { type: 'sun', color: WHITE, intensity: 1000, angularDiameterRad: 0.53 * DEGREE },
  point: { type: 'point', color: WHITE, intensity: 100, radiusM: 0.03 },
  spot: {
    type: 'spot',
    color: WHITE,
    intensity: 500,
    radiusM: 0.03,
    innerConeRad: 15 * DEGREE,
    outerConeRad: 25 * DEGREE,
  },
  rectangle: { type: 'rectangle', color: WHITE, intensity: 500, widthM: 1, heightM: 1 },
  disc: { type: 'disc', color: WHITE, intensity: 500, radiusM: 0.5 },
  ball: { type: 'ball', color: WHITE, intensity: 500, radiusM: 0.1 },
};

/** @returns undefined where the path is none of an added light */
export function newLight(path: string): SceneLight | undefined {
  const added = parseAdded(path);
  return added && NEW_LIGHTS[added.type];
}
