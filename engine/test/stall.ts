// A small scene with much of what can be in one.
import { type EngineScene, MASK } from '../host/index.ts';
import { IDENTITY, constantSky, floor, frontCamera, glow, matte, scene, sphere, translated } from './fixtures.ts';

export const stallCamera = {
  ...frontCamera(4, 0.35),
  matrix: [1, 0, 0, 0, 0, 0.94, -0.342, 0, 0, 0.342, 0.94, 0, 0, 1.6, 4, 1],
  lensRadiusM: 0.02,
  focusDistanceM: 4,
};
/** Glass, metal, something half there, something that glows, fog, and a still part that is quiet at once. */
export const stall = (): EngineScene =>
  scene({
    meshes: [floor(3), sphere(20, 0.5), floor(0.4)],
    materials: [
      { ...matte, name: 'plaster', baseColor: [0.6, 0.5, 0.4, 1] },
      { ...matte, name: 'copper', metallic: 1, roughness: 0.3, baseColor: [0.9, 0.6, 0.4, 1] },
      { ...matte, name: 'glass', transmission: 1, ior: 1.5, specular: 1, solid: true, roughness: 0 },
      { ...matte, name: 'gauze', baseColor: [0.8, 0.2, 0.2, 0.4], alphaMode: 'blend' },
      glow([4, 4, 4]),
    ],
    instances: [
      { name: 'floor', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL },
      { name: 'ball', mesh: 1, material: 1, matrix: translated(0.9, 0.5, 0), mask: MASK.ALL },
      { name: 'drop', mesh: 1, material: 2, matrix: translated(-0.4, 0.5, 0.6), mask: MASK.ALL },
      { name: 'veil', mesh: 1, material: 3, matrix: translated(-1.2, 0.6, -0.4), mask: MASK.ALL },
      {
        name: 'panel',
        mesh: 2,
        material: 4,
        matrix: [1, 0, 0, 0, 0, -1, 0, 0, 0, 0, -1, 0, -1, 1.5, 0, 1],
        mask: MASK.ALL,
        lightGroup: 1,
      },
    ],
    lights: [{ type: 'point', position: [1, 2, 1], intensityCd: [3, 3, 3], radiusM: 0.05, lightGroup: 0 }],
    environment: constantSky(0.3),
    environmentGroup: 0,
    fog: { extinctionPerM: 0.06, albedo: [0.8, 0.8, 0.8], anisotropy: 0.3, topM: 2 },
  });
