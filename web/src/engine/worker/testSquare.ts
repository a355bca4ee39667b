// What tests of the engine's worker look at.
import type { Geometry } from '@variscen/core/scene';

/** Of two metres, facing +z. */
export const square: Geometry = {
  positions: new Float32Array([-1, -1, 0, 1, -1, 0, 1, 1, 0, -1, 1, 0]),
  normals: new Float32Array([0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1]),
  indices: new Uint32Array([0, 1, 2, 0, 2, 3]),
};

/** It glows. */
export const paper = {
  name: 'Paper',
  baseColor: [0.5, 0.4, 0.3],
  metallic: 0,
  roughness: 0.5,
  transmission: 0,
  ior: 1.5,
  specular: 1,
  emissionColor: [1, 1, 1],
  emissionStrength: 1,
  normalScale: 1,
  attenuationColor: [1, 1, 1],
  attenuationDistanceM: null,
  solid: false,
  doubleSided: true,
  textures: {},
} as const;
