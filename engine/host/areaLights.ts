// Area lights are emitting meshes that the camera does not see: a rectangle of two triangles, a disc of 64 whose area
// is that of the circle.
import * as K from '../kernel/layout/index.ts';
import { DISC_POINTS, isArea } from './count.ts';
import type { EngineMaterial, EngineMesh, EngineScene, SceneMesh, Vec3 } from './scene.ts';

const RECTANGLE: EngineMesh = {
  name: 'rectangle light',
  positions: new Float32Array([-0.5, -0.5, 0, -0.5, 0.5, 0, 0.5, 0.5, 0, 0.5, -0.5, 0]),
  indices: new Uint32Array([0, 1, 2, 0, 2, 3]),
};
const n = DISC_POINTS.length;
const scale = Math.sqrt((2 * Math.PI) / (n * Math.sin((2 * Math.PI) / n)));
// clockwise as seen from +Z, so that fronts look along −Z
const DISC: EngineMesh = {
  name: 'disc light',
  positions: new Float32Array([0, 0, 0, ...DISC_POINTS.flatMap(([x, y]) => [x * scale, y * scale, 0])]),
  indices: new Uint32Array(DISC_POINTS.flatMap((_, i) => [0, ((i + 1) % n) + 1, i + 1])),
};
export const AREA_MESHES = { rectangle: RECTANGLE, disc: DISC } as const;

export const glow = (radianceNits: Vec3): EngineMaterial => ({
  baseColor: [0, 0, 0, 1],
  metallic: 0,
  roughness: 1,
  transmission: 0,
  ior: 1,
  specular: 0,
  emission: radianceNits,
  normalScale: 1,
  attenuation: [0, 0, 0],
  doubleSided: false,
  solid: false,
});

/** The scene with area lights turned into instances, after all others: rectangles, then discs. */
export function withAreaLights(scene: EngineScene<SceneMesh>): EngineScene<SceneMesh> {
  if (!scene.lights.some(isArea)) return scene;
  const meshes = [...scene.meshes];
  const materials = [...scene.materials];
  const instances = [...scene.instances];
  for (const type of ['rectangle', 'disc'] as const) {
    const lights = scene.lights.filter(isArea).filter((l) => l.type === type);
    if (!lights.length) continue;
    const mesh = meshes.push(AREA_MESHES[type]) - 1;
    for (const l of lights) {
      const m = Array.from(l.matrix);
      const sx = l.type === 'rectangle' ? l.widthM : l.radiusM;
      const sy = l.type === 'rectangle' ? l.heightM : l.radiusM;
      for (let i = 0; i < 3; i++) {
        m[i]! *= sx;
        m[4 + i]! *= sy;
      }
      instances.push({
        name: `${type} light`,
        mesh,
        material: materials.push(glow(l.radianceNits)) - 1,
        matrix: m,
        mask: K.MASK.SPECULAR | K.MASK.DIFFUSE,
        ...(l.lightGroup !== undefined && { lightGroup: l.lightGroup }),
        ...(l.shadowless && { shadowless: true }),
      });
    }
  }
  return { ...scene, meshes, materials, instances, lights: scene.lights.filter((l) => !isArea(l)) };
}
