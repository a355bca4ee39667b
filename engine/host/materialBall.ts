// A ball in a material, on a plain ground under a soft light: what a material looks like by itself.
import { PLAIN_MATERIAL } from './plainMaterial.ts';
import { generateEnvironment } from '@variscen/core/environment';
import { lookAt } from '@variscen/core/scene';
import { MASK } from '../kernel/layout/index.ts';
import type { EngineCamera, EngineMaterial, EngineMesh, EngineScene, EngineTexture } from './scene.ts';

const RINGS = 40;
/** Of radius 1, with normals and coordinates that go twice round, so that maps lie unstretched about the front. */
function ball(): EngineMesh {
  const positions: number[] = [];
  const uv: number[] = [];
  const indices: number[] = [];
  const segments = RINGS * 2;
  for (let i = 0; i <= RINGS; i++)
    for (let j = 0; j <= segments; j++) {
      const a = (Math.PI * i) / RINGS;
      const b = (2 * Math.PI * j) / segments;
      positions.push(Math.sin(a) * Math.cos(b), Math.cos(a), Math.sin(a) * Math.sin(b));
      uv.push((2 * j) / segments, i / RINGS);
    }
  for (let i = 0; i < RINGS; i++)
    for (let j = 0; j < segments; j++) {
      const a = i * (segments + 1) + j;
      const b = a + segments + 1;
      if (i > 0) indices.push(a, a + 1, b);
      if (i < RINGS - 1) indices.push(a + 1, b + 1, b);
    }
  return {
    name: 'ball',
    positions: new Float32Array(positions),
    normals: new Float32Array(positions),
    uv0: new Float32Array(uv),
    uv1: new Float32Array(uv),
    indices: new Uint32Array(indices),
    contentKey: 'material ball',
  };
}
const BALL = ball();
const GROUND: EngineMesh = {
  name: 'ground',
  positions: new Float32Array([-9, -1, -9, -9, -1, 9, 9, -1, 9, 9, -1, -9]),
  indices: new Uint32Array([0, 1, 2, 0, 2, 3]),
  contentKey: 'material ground',
};

export const BALL_CAMERA: EngineCamera = {
  matrix: lookAt([0, 0.9, 5.2], [0, -0.05, 0]),
  projection: 'perspective',
  halfHeight: 0.235,
  nearM: 0.1,
  farM: 100,
  lensRadiusM: 0,
  focusDistanceM: 5,
};
/** Bright emitters are dimmed to 1 nit, so that their colour shows. */
export function materialBall(
  material: EngineMaterial,
  textures: readonly EngineTexture[],
): { readonly scene: EngineScene; readonly camera: EngineCamera } {
  const most = Math.max(1, ...material.emission);
  const shown =
    most > 1
      ? { ...material, emission: material.emission.map((e) => e / most) as unknown as EngineMaterial['emission'] }
      : material;
  const still = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
  return {
    camera: BALL_CAMERA,
    scene: {
      meshes: [BALL, GROUND],
      textures,
      materials: [shown, PLAIN_MATERIAL],
      instances: [
        { name: 'ball', mesh: 0, material: 0, matrix: still, mask: MASK.ALL },
        { name: 'ground', mesh: 1, material: 1, matrix: still, mask: MASK.ALL },
      ],
      lights: [
        {
          type: 'rectangle',
          matrix: [...lookAt([-3.2, 4.4, 3.2], [0, 0, 0])],
          widthM: 2.4,
          heightM: 2.4,
          radianceNits: [5.5, 5.5, 5.5],
        },
      ],
      environment: { ...generateEnvironment('overcast', 32), scale: [0.7, 0.7, 0.7], turnRad: 0 },
    },
  };
}
