// The scene's lights as the real-time view has them: the strongest few.
import { type ResolvedState, lightOf } from '@variscen/core/looks';
import type { Matrix, SceneDocument, SceneLight } from '@variscen/core/scene';
import * as THREE from 'three';

/** More lights than this cost the real-time view too much; the strongest are shown, and the caption says so. */
const MAX_LIGHTS = 8;

export interface LightsShown {
  readonly lightsShown: number;
  readonly lights: number;
}

/** Panels are shown as wide spots of the same strength. */
function lightFor(source: SceneLight, color: THREE.Color): THREE.DirectionalLight | THREE.PointLight | THREE.SpotLight {
  const { intensity } = source;
  switch (source.type) {
    case 'sun':
      return new THREE.DirectionalLight(color, intensity);
    case 'point':
      return new THREE.PointLight(color, intensity);
    case 'spot': {
      const soft = 1 - source.innerConeRad / source.outerConeRad;
      return new THREE.SpotLight(color, intensity, 0, Math.min(1.5, source.outerConeRad), soft);
    }
    case 'disc':
      return new THREE.SpotLight(color, intensity * Math.PI * source.radiusM ** 2, 0, 1.4, 1);
    case 'ball':
      return new THREE.PointLight(color, intensity * Math.PI * source.radiusM ** 2);
    case 'rectangle':
      return new THREE.SpotLight(color, intensity * source.widthM * source.heightM, 0, 1.4, 1);
  }
}

/** Fills a group with the lights that count most near a point of the world. shown: by node. */
export function placeLights(
  group: THREE.Group,
  document: SceneDocument,
  state: ResolvedState,
  world: readonly Matrix[],
  shown: readonly boolean[],
  target: THREE.Vector3,
): LightsShown {
  group.clear();
  const all: { light: THREE.Light; power: number }[] = [];
  document.nodes.forEach((n, i) => {
    if (n.light === undefined || !shown[i]) return;
    const now = lightOf(document, state, i, world[i]!);
    if (!now) return;
    const { light: source, matrix: m } = now;
    const { intensity } = source;
    const c = new THREE.Color(...source.color);
    const at = new THREE.Vector3(m[12], m[13], m[14]);
    const along = new THREE.Vector3(-m[8]!, -m[9]!, -m[10]!);
    const light = lightFor(source, c);
    light.position.copy(at);
    if (!(light instanceof THREE.PointLight)) {
      light.target.position.copy(at).add(along);
      light.target.updateMatrixWorld();
    }
    all.push({
      light,
      power: source.type === 'sun' ? intensity * 100 : intensity / (1 + at.distanceToSquared(target) * 0.05),
    });
  });
  all.sort((a, b) => b.power - a.power);
  // always the same number of each kind would keep shaders; eight at most keeps them cheap
  for (const { light } of all.slice(0, MAX_LIGHTS)) group.add(light);
  return { lightsShown: Math.min(MAX_LIGHTS, all.length), lights: all.length };
}
