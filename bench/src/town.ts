// A scene that weighs: bodies with hills on them, each a mesh of its own, stand about under many lamps.
import {
  type EngineCamera,
  type EngineLight,
  type EngineMaterial,
  type EngineMesh,
  type EngineScene,
  MASK,
  PLAIN_MATERIAL,
} from '@variscen/engine';

const BODIES = 100;
const RINGS = 80;
const LAMPS = 60;
/** Turns by which neighbours are never in line. */
const GOLDEN_ANGLE = 2.399963;

export const STONE: EngineMaterial = { ...PLAIN_MATERIAL, baseColor: [0.7, 0.65, 0.6, 1], roughness: 0.6, specular: 1 };

/** A ball of 4 × rings² triangles, whose hills are others for each number. */
export function body(number: number, rings = RINGS): EngineMesh {
  const positions: number[] = [];
  const indices: number[] = [];
  const across = 2 * rings + 1;
  for (let y = 0; y <= rings; y++)
    for (let x = 0; x < across; x++) {
      const polar = (Math.PI * y) / rings;
      const azimuth = (Math.PI * x) / rings;
      const hills = 0.15 * Math.sin(7 * azimuth + number) * Math.sin(9 * polar + 2 * number);
      const r = 1 + hills + 0.03 * Math.sin(41 * azimuth) * Math.cos(37 * polar);
      const level = r * Math.sin(polar);
      positions.push(level * Math.cos(azimuth), r * Math.cos(polar), level * Math.sin(azimuth));
    }
  for (let y = 0; y < rings; y++)
    for (let x = 0; x < across - 1; x++) {
      const a = y * across + x;
      indices.push(a, a + 1, a + across + 1, a, a + across + 1, a + across);
    }
  return { name: `body ${number}`, positions: new Float32Array(positions), indices: new Uint32Array(indices) };
}
const placeOf = (i: number, spread: number): readonly [number, number] => {
  const r = 3 + Math.sqrt(i) * spread;
  return [Math.cos(i * GOLDEN_ANGLE) * r, Math.sin(i * GOLDEN_ANGLE) * r];
};

export function town(): { readonly scene: EngineScene; readonly camera: EngineCamera } {
  const numbers = Array.from({ length: BODIES }, (_, i) => i);
  const lamps = Array.from({ length: LAMPS }, (_, i): EngineLight => {
    const [x, z] = placeOf(i * 1.5, 2.4);
    return { type: 'point', position: [x, 2.5, z], intensityCd: [9, 8, 6], radiusM: 0.05 };
  });
  const scene: EngineScene = {
    meshes: numbers.map((n) => body(n)),
    textures: [],
    materials: [STONE],
    instances: numbers.map((i) => {
      const [x, z] = placeOf(i, 2.2);
      return {
        name: `body ${i}`,
        mesh: i,
        material: 0,
        matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, 0, z, 1],
        mask: MASK.ALL,
      };
    }),
    lights: lamps,
  };
  const camera: EngineCamera = {
    matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0.5, 1.5, 1],
    projection: 'perspective',
    halfHeight: 0.5,
    nearM: 0.01,
    farM: 1e4,
    lensRadiusM: 0,
    focusDistanceM: 1,
  };
  return { scene, camera };
}
