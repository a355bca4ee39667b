// A material with nothing to it: what is made up for a scene says how it differs.
import type { EngineMaterial } from './scene.ts';

export const PLAIN_MATERIAL: EngineMaterial = {
  baseColor: [0.18, 0.18, 0.18, 1],
  metallic: 0,
  roughness: 1,
  transmission: 0,
  ior: 1.5,
  specular: 0,
  emission: [0, 0, 0],
  normalScale: 1,
  attenuation: [0, 0, 0],
  doubleSided: true,
  solid: false,
};
