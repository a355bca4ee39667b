// Rules for 20,000 objects and eight cameras, as they are tried while somebody sets them.
import { FrameCull } from '@variscen/core/cull';
import { type CameraSettings, type SceneDocument, cameraForScene, lookAt, worldMatrices } from '@variscen/core/scene';
import type { Emit } from './figure.ts';

const OBJECTS = 20_000;
const CAMERAS = 8;
const TURNS = 5;

function market(): SceneDocument {
  const mesh = {
    name: 'bowl',
    blob: '',
    vertices: 8,
    triangles: 12,
    normals: false,
    uv0: false,
    uv1: false,
    colors: false,
    min: [-0.2, 0, -0.2],
    max: [0.2, 0.2, 0.2],
    accelerationBytes: 0,
  } as const;
  const nodes = Array.from({ length: OBJECTS }, (_, i) => ({
    path: `Bowl ${i + 1}`,
    name: `Bowl ${i + 1}`,
    parent: -1,
    matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, (i % 200) * 0.5, 0, Math.floor(i / 200) * 0.5, 1],
    parts: [{ mesh: 0, material: 0 }],
  }));
  return { version: 1, meshes: [mesh], materials: [], textures: [], lights: [], cameras: [], nodes };
}

export function cullRulesSuite(emit: Emit): Promise<void> {
  const document = market();
  const cameras = Array.from({ length: CAMERAS }, (_, i): CameraSettings => ({
    ...cameraForScene(document),
    matrix: lookAt([50, 2, 25], [50 + Math.cos(i), 1, 25 + Math.sin(i)]),
    cullMarginPct: 10,
    cull: { fartherThanM: 30, smallerThanPx: 4, outsidePlanes: true },
  }));
  const world = worldMatrices(document.nodes);
  let best = Infinity;
  let leftOut = 0;
  for (let turn = 0; turn < TURNS; turn++) {
    const began = performance.now();
    const cull = new FrameCull({ document, world, shown: () => true, emits: () => false });
    leftOut = cameras.reduce((n, c) => n + cull.verdicts(c).filter((v) => !v.keep).length, 0);
    best = Math.min(best, performance.now() - began);
  }
  emit({ name: `rules, ${OBJECTS} objects × ${CAMERAS} cameras`, value: best, unit: 'ms' });
  emit({ name: 'rules, left out of all cameras together', value: leftOut, unit: 'objects' });
  return Promise.resolve();
}
