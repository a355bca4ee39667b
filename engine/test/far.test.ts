// A scene far from the origin, as scenes of a town in map coordinates are: the picture is the one of the same scene at
// the origin, and its positions are where it stands.
import { describe, expect, it } from 'vitest';
import type { EngineCamera, EngineMesh, EngineScene, Picture } from '../host/index.ts';
import { MASK } from '../host/index.ts';
import { nearScene } from '../host/nearScene.ts';
import { openNodeEngine } from '../host/node/index.ts';
import { constantSky, downCamera, floor, glow, matte, scene, settings, sphere, translated } from './fixtures.ts';

type At = readonly [number, number, number];
const NEAR: At = [0, 0, 0];
const FAR: At = [104_857, 1203, -98_304];
const moved = (m: EngineMesh, [x, y, z]: At): EngineMesh => ({
  ...m,
  positions: Float32Array.from(m.positions, (p, i) => p + [x, y, z][i % 3]!),
});
const at = (by: At, x: number, y: number, z: number) => translated(by[0] + x, by[1] + y, by[2] + z);

/** A ball that all but touches a floor under a lamp, a glowing panel and a sky, in fog that ends above. */
function room(by: At, baked: boolean): EngineScene {
  const own = (m: EngineMesh) => (baked ? moved(m, by) : m);
  const place = baked ? NEAR : by;
  const all = { mask: MASK.ALL };
  return {
    ...scene({
      meshes: [own(floor(3)), own(sphere(24, 0.2)), floor(0.3)],
      materials: [{ ...matte, baseColor: [0.6, 0.5, 0.4, 1] }, { ...matte, roughness: 0.4 }, glow([3, 3, 3])],
      instances: [
        { name: 'floor', mesh: 0, material: 0, matrix: at(place, 0, 0, 0), ...all },
        { name: 'ball', mesh: 1, material: 1, matrix: at(place, 0.1, 0.203, 0), ...all },
        { name: 'panel', mesh: 2, material: 2, matrix: at(by, -1, 1.5, 0.2), ...all },
      ],
      environment: constantSky(0.3),
    }),
    lights: [
      { type: 'point', position: [by[0] + 1, by[1] + 2, by[2]], intensityCd: [20, 20, 20], radiusM: 0.05 },
      { type: 'rectangle', matrix: at(by, 0, 2.5, 1), widthM: 0.5, heightM: 0.5, radianceNits: [9, 9, 9] },
    ],
    fog: { extinctionPerM: 0.05, albedo: [1, 1, 1], anisotropy: 0.2, topM: by[1] + 1 },
  };
}
function cameraAt(by: At): EngineCamera {
  const camera = downCamera(3, 0.6);
  const matrix = Array.from(camera.matrix);
  for (let k = 0; k < 3; k++) matrix[12 + k]! += by[k]!;
  return { ...camera, matrix };
}
async function take(what: EngineScene, camera: EngineCamera): Promise<Picture> {
  const engine = await openNodeEngine(1);
  try {
    await engine.load(what, { ...settings(48, 48), planes: ['position', 'depth'] });
    await engine.render({ camera, samples: 48 });
    return engine.picture();
  } finally {
    await engine.close();
  }
}
const mean = (film: Float32Array) => film.reduce((s, x, i) => s + (i % 4 < 3 ? x : 0), 0) / ((film.length / 4) * 3);

describe('a scene at 100 km', () => {
  it.each([
    ['placed there', false],
    ['with its meshes baked there', true],
  ])('%s is the picture of the same scene at the origin', async (_what, baked) => {
    const near = await take(room(NEAR, false), cameraAt(NEAR));
    const far = await take(room(FAR, baked), cameraAt(FAR));
    expect(mean(far.rgba) / mean(near.rgba)).toBeCloseTo(1, 2);
    let worst = 0;
    let sum = 0;
    for (let i = 0; i < near.rgba.length; i++) {
      const off = Math.abs(far.rgba[i]! - near.rgba[i]!);
      worst = Math.max(worst, off);
      sum += off;
    }
    // baked, the file itself rounds to a 128th of a metre
    expect(sum / near.rgba.length).toBeLessThan(mean(near.rgba) * (baked ? 0.06 : 1e-3));
    const middle = (24 * 48 + 24) * 3;
    for (let k = 0; k < 3; k++)
      expect(far.planes.position![middle + k]! - near.planes.position![middle + k]!).toBeCloseTo(FAR[k]!, 1);
    expect(far.planes.depth![24 * 48 + 24]!).toBeCloseTo(near.planes.depth![24 * 48 + 24]!, baked ? 1 : 4);
  });
});

it('one thing far out leaves the others, and their picture, where they are', () => {
  const near = room(NEAR, false);
  const [first] = near.instances;
  const far = { ...near, instances: [...near.instances, { ...first!, matrix: translated(9000, 0, 0) }] };
  expect(nearScene(far)).toEqual({ scene: far, origin: [0, 0, 0] });
  expect(nearScene(room(FAR, false)).origin).not.toEqual([0, 0, 0]);
});
