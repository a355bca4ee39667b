// Posed meshes and motion.
import { describe, expect, it } from 'vitest';
import { MASK, type EngineCamera, type EngineMesh, type EngineScene } from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import {
  IDENTITY,
  constantSky,
  downCamera,
  floor,
  frontCamera,
  matte,
  scene,
  settings,
  sphere,
  translated,
} from './fixtures.ts';

const parallel: EngineCamera = { ...downCamera(3, 1), projection: 'orthographic', halfHeight: 1 };
async function motionOf(what: EngineScene, camera: EngineCamera, nextCamera?: EngineCamera): Promise<[number, number]> {
  const e = await openNodeEngine(1, true);
  try {
    await e.load(what, { ...settings(64), planes: ['motion'] });
    await e.render({ camera, nextCamera, samples: 2 });
    const m = e.picture().planes.motion!;
    const i = (40 * 64 + 40) * 2;
    return [m[i]!, m[i + 1]!];
  } finally {
    await e.close();
  }
}
const plate = (extra: object = {}, mesh: EngineMesh = floor(4)) =>
  scene({
    meshes: [mesh],
    materials: [matte],
    instances: [{ name: 'plate', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL, ...extra }],
    environment: constantSky(1),
  });

describe('motion', () => {
  it('is nothing where nothing moves', async () => {
    expect(await motionOf(plate(), downCamera(3, 1))).toEqual([0, 0]);
  });
  it('is the pixels to the right and down until the next frame: of an object', async () => {
    // 2 m are 64 pixels; +Z is down in the picture
    const [x, y] = await motionOf(plate({ nextMatrix: translated(0.25, 0, 0.125) }), parallel);
    expect([x, y].map((v) => Number(v.toFixed(4)))).toEqual([8, 4]);
  });
  it('of the camera, the other way', async () => {
    const [x, y] = await motionOf(plate(), parallel, {
      ...parallel,
      matrix: [...(parallel.matrix as number[])].map((v, i) => (i === 12 ? 0.25 : v)),
    });
    expect([x, y].map((v) => Number(v.toFixed(4)))).toEqual([-8, 0]);
  });
  it('of a shape', async () => {
    const g = floor(4);
    const [x, y] = await motionOf(
      plate(
        {},
        { ...g, restPositions: g.positions, nextPositions: g.positions.map((v, i) => (i % 3 === 0 ? v + 0.5 : v)) },
      ),
      parallel,
    );
    expect([x, y].map((v) => Number(v.toFixed(4)))).toEqual([16, 0]);
  });
  it('in perspective is less far away', async () => {
    const [near] = await motionOf(plate({ nextMatrix: translated(0.1, 0, 0) }), downCamera(2, 1));
    const [far] = await motionOf(plate({ nextMatrix: translated(0.1, 0, 0) }), { ...downCamera(4, 2) });
    expect(near / far).toBeCloseTo(2, 4);
  });
});

describe('a posed mesh', () => {
  const ball = sphere(24);
  const posed = {
    ...ball,
    positions: ball.positions.map((v, i) => v * [1.5, 0.6, 1][i % 3]! + [0.3, 0, 0][i % 3]!),
    normals: undefined,
  };
  const picture = async (mesh: EngineMesh) => {
    const e = await openNodeEngine(1, true);
    try {
      const plan = await e.load(
        scene({
          meshes: [mesh],
          materials: [matte],
          instances: [{ name: 'ball', mesh: 0, material: 0, matrix: IDENTITY, mask: MASK.ALL }],
          environment: constantSky(1),
          lights: [{ type: 'point', position: [2, 3, 2], intensityCd: [9, 9, 9], radiusM: 0 }],
        }),
        settings(48),
      );
      await e.render({ camera: frontCamera(4, 0.5), samples: 4 });
      return { rgba: e.picture().rgba, bytes: plan.bytes };
    } finally {
      await e.close();
    }
  };
  it('keeps the tree of its rest, with boxes for its pose: the same picture to the bit as a tree built for the pose, in the memory of the rest', async () => {
    const fresh = await picture(posed);
    const refitted = await picture({ ...posed, restPositions: ball.positions });
    const rest = await picture({ ...ball, normals: undefined });
    expect(refitted.rgba).toEqual(fresh.rgba);
    expect(refitted.bytes).toEqual(rest.bytes);
    expect(refitted.rgba).not.toEqual(rest.rgba);
  });
});
