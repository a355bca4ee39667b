// The law that culling, slices and several machines rest on: a sample's value depends on pixel, sample number and what
// its path met, on nothing else.
import { describe, expect, it } from 'vitest';
import { Engine, MASK, spawnInline, type EngineScene } from '../host/index.ts';
import { kernelModule, openNodeEngine } from '../host/node/index.ts';
import {
  IDENTITY,
  constantSky,
  floor,
  frontCamera,
  matte,
  scene,
  settings,
  shoot,
  sphere,
  translated,
} from './fixtures.ts';

function crowd(): EngineScene {
  const instances = [{ name: 'floor', mesh: 1, material: 0, matrix: translated(0, -1, 0), mask: MASK.ALL }];
  for (let i = 0; i < 40; i++)
    instances.push({
      name: `ball ${i}`,
      mesh: 0,
      material: i % 4,
      matrix: translated(((i * 7) % 11) * 0.4 - 2, ((i * 5) % 7) * 0.3 - 1, -((i * 3) % 13) * 0.5),
      mask: MASK.ALL,
    });
  return scene({
    meshes: [sphere(12, 0.3), floor(6)],
    materials: [
      matte,
      { ...matte, metallic: 1, roughness: 0.2, baseColor: [0.9, 0.6, 0.3, 1] },
      { ...matte, transmission: 1, ior: 1.5, specular: 1, solid: true, roughness: 0 },
      { ...matte, baseColor: [0, 0, 0, 1], emission: [4, 3, 2], doubleSided: false },
    ],
    instances,
    environment: constantSky(0.3),
    lights: [{ type: 'point', position: [1, 2, 1], intensityCd: [3, 3, 3], radiusM: 0.1 }],
  });
}
const shot = { camera: frontCamera(4, 0.5), settings: settings(96, 64, 6), samples: 4 };

describe('the same picture to the bit', () => {
  it('with 1 and with 2 threads', async () => {
    expect(await shoot(crowd(), { ...shot, threads: 2 })).toEqual(await shoot(crowd(), shot));
  });
  it("with one thread that is the caller's own, where memory cannot be shared", async () => {
    const engine = await Engine.open({ module: await kernelModule(), spawn: spawnInline, threads: 1 });
    try {
      await engine.load(crowd(), shot.settings);
      await engine.render({ camera: shot.camera, samples: shot.samples });
      expect(engine.picture().rgba).toEqual(await shoot(crowd(), shot));
    } finally {
      await engine.close();
    }
  });
  it('whatever the size of passes', async () => {
    expect(await shoot(crowd(), { ...shot, samplesPerPass: 1 })).toEqual(await shoot(crowd(), shot));
  });
  it('when things that no path met are gone, so that the tree has another shape', async () => {
    const all = crowd();
    const far = Array.from({ length: 50 }, (_, i) => ({
      name: `far ${i}`,
      mesh: 0,
      material: 0,
      matrix: translated(100 + i, 500, 100),
      mask: MASK.ALL,
    }));
    const sealed = { ...all, environment: undefined };
    const box = {
      ...sealed,
      meshes: [...sealed.meshes, sphere(24, 50)],
      instances: [...sealed.instances, { name: 'walls', mesh: 2, material: 0, matrix: IDENTITY, mask: MASK.ALL }],
    };
    expect(await shoot({ ...box, instances: [...box.instances, ...far] }, shot)).toEqual(await shoot(box, shot));
  });
  it('at equal distances the lower instance wins, whatever else is there', async () => {
    const two = (first: number, second: number) =>
      scene({
        meshes: [floor(1)],
        materials: [
          { ...matte, baseColor: [1, 0, 0, 1] },
          { ...matte, baseColor: [0, 1, 0, 1] },
        ],
        environment: constantSky(1),
        instances: [first, second].map((material) => ({
          name: 'sheet',
          mesh: 0,
          material,
          matrix: [1, 0, 0, 0, 0, 0, -1, 0, 0, 1, 0, 0, 0, 0, 0, 1],
          mask: MASK.ALL,
        })),
      });
    const red = await shoot(two(0, 1), { camera: frontCamera(4, 0.1), settings: settings(16, 16, 1), samples: 2 });
    const green = await shoot(two(1, 0), { camera: frontCamera(4, 0.1), settings: settings(16, 16, 1), samples: 2 });
    expect(red[0]).toBeGreaterThan(0.5);
    expect(red.every((x, i) => i % 4 !== 1 || x === 0)).toBe(true);
    expect(green.every((x, i) => i % 4 !== 0 || x === 0)).toBe(true);
  });
});

describe('a render', () => {
  it('stops within a second when it is cancelled, and the engine renders again after', async () => {
    const engine = await openNodeEngine(2);
    try {
      await engine.load(crowd(), settings(640, 480, 16));
      const stop = new AbortController();
      const running = engine.render({ camera: shot.camera, samples: 100_000, signal: stop.signal });
      setTimeout(() => stop.abort(), 300);
      const began = performance.now();
      await expect(running).rejects.toMatchObject({ code: 'CANCELLED' });
      expect(performance.now() - began).toBeLessThan(1300);
      engine.clearFilm();
      expect((await engine.render({ camera: shot.camera, samples: 1 })).samples).toBe(1);
    } finally {
      await engine.close();
    }
  });
  it('reports passes with growing sample numbers and a fraction that ends at 1', async () => {
    const engine = await openNodeEngine(1);
    try {
      await engine.load(crowd(), settings(64, 64));
      const passes: number[] = [];
      const fractions: number[] = [];
      await engine.render({
        camera: shot.camera,
        samples: 12,
        onPass: (n) => {
          passes.push(n);
        },
        onProgress: (p) => fractions.push(p.fraction),
      });
      expect(passes).toEqual([1, 2, 4, 8, 12]);
      expect(fractions.at(-1)).toBe(1);
      expect([...fractions].sort((a, b) => a - b)).toEqual(fractions);
    } finally {
      await engine.close();
    }
  });
});
