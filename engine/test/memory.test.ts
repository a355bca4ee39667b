// Memory is what was planned, and bad input is refused by name.
import { describe, expect, it } from 'vitest';
import { MASK, MeshCache, planMemory, topLevelBytes } from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import {
  IDENTITY,
  constantSky,
  floor,
  frontCamera,
  matte,
  one,
  scene,
  settings,
  sphere,
  translated,
} from './fixtures.ts';

const withEngine = async <T>(work: (e: Awaited<ReturnType<typeof openNodeEngine>>) => Promise<T>): Promise<T> => {
  const engine = await openNodeEngine(1, true);
  try {
    return await work(engine);
  } finally {
    await engine.close();
  }
};

describe('memory', () => {
  it('of a mesh is measured exactly and the same each time', () =>
    withEngine(async (e) => {
      const a = await e.measureMesh(sphere(40));
      const b = await e.measureMesh(sphere(40));
      expect(a).toBe(b);
      const triangles = sphere(40).indices.length / 3;
      expect(a / triangles).toBeLessThan(75);
      expect(a / triangles).toBeGreaterThan(40);
    }));

  it('planned is memory taken, category by category', () =>
    withEngine(async (e) => {
      const mesh = sphere(30);
      const accelerationBytes = await e.measureMesh(mesh);
      const counts = {
        meshes: [
          {
            vertices: mesh.positions.length / 3,
            triangles: mesh.indices.length / 3,
            normals: true,
            uv0: false,
            uv1: false,
            colors: false,
            accelerationBytes,
          },
        ],
        materials: 1,
        textureUses: 0,
        textures: [],
        glasses: 0,
        stretched: false,
        instances: 1,
        lights: 0,
        emissiveTriangles: [],
        environment: { width: 16, height: 8 },
        settings: settings(50, 40),
        threads: 1,
      };
      const plan = await e.load(scene({ ...one(mesh), environment: constantSky(1) }), settings(50, 40));
      expect(plan.bytes).toEqual(planMemory(counts).bytes);
      expect(plan.totalBytes).toBe(Object.values(plan.bytes).reduce((a, b) => a + b, 0));
      expect(plan.bytes.film).toBeGreaterThanOrEqual(50 * 40 * 16);
      expect(plan.bytes.acceleration).toBeGreaterThanOrEqual(accelerationBytes + topLevelBytes(1));
    }));

  it('beyond the budget is refused before it is taken', () =>
    withEngine(async (e) => {
      await expect(e.load(scene(one(sphere(20))), settings(4000, 4000), 50 * 2 ** 20)).rejects.toMatchObject({
        code: 'OUT_OF_MEMORY',
      });
    }));

  it('of structures built before is copied instead of built again: the same picture to the bit, anywhere in memory; the oldest go first', async () => {
    const cache = new MeshCache(2 ** 20);
    const ball = { ...sphere(24), contentKey: 'ball' };
    const ground = { ...floor(4), contentKey: 'ground' };
    const camera = frontCamera(4, 0.5);
    const shot = async (meshCache: MeshCache | undefined, extra: number) => {
      const engine = await openNodeEngine(1, true, meshCache);
      const meshes = [
        ...Array.from({ length: extra }, (_, i) => ({ ...sphere(6 + i), name: `other ${i}` })),
        ball,
        ground,
      ];
      try {
        await engine.load(
          scene({
            meshes,
            materials: [matte],
            instances: [
              { name: 'ball', mesh: extra, material: 0, matrix: IDENTITY, mask: MASK.ALL },
              { name: 'ground', mesh: extra + 1, material: 0, matrix: translated(0, -1, 0), mask: MASK.ALL },
            ],
            environment: constantSky(1),
          }),
          settings(32),
        );
        await engine.render({ camera, samples: 4 });
        return engine.picture().rgba;
      } finally {
        await engine.close();
      }
    };
    const built = await shot(undefined, 0);
    const first = await shot(cache, 0);
    expect(cache.size).toBe(2);
    expect([first, await shot(cache, 0), await shot(cache, 3)]).toEqual([built, built, built]);
    cache.limit(cache.bytes - 1);
    expect(cache.size).toBe(1);
    expect(await shot(cache, 1)).toEqual(built);
    cache.limit(0);
    expect([cache.size, cache.bytes]).toEqual([0, 0]);
  });

  it('beyond 4 GiB is refused with the largest part named', () => {
    expect(() =>
      planMemory({
        meshes: [],
        materials: 0,
        textureUses: 0,
        textures: [{ width: 40000, height: 40000 }],
        glasses: 0,
        stretched: false,
        instances: 0,
        lights: 0,
        emissiveTriangles: [],
        settings: settings(1),
        threads: 1,
      }),
    ).toThrow(/textures/);
  });
});

describe('bad input', () => {
  it.each([
    ['an index past the end', { ...floor(), indices: new Uint32Array([0, 1, 9]) }, /“floor” refers to vertex 9/],
    [
      'a position that is not a number',
      { ...floor(), positions: new Float32Array([0, NaN, 0, 1, 0, 0, 0, 0, 1]), indices: new Uint32Array([0, 1, 2]) },
      /not a number/,
    ],
    ['no triangles', { ...floor(), indices: new Uint32Array() }, /no whole triangles/],
  ])('%s is refused by name', (_what, mesh, message) =>
    withEngine(async (e) => {
      await expect(e.load(scene(one(mesh)), settings(8))).rejects.toThrow(message);
    }),
  );

  it('an object scaled to nothing is refused by name', () =>
    withEngine(async (e) => {
      await expect(
        e.load(scene(one(floor(), matte, [1, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1])), settings(8)),
      ).rejects.toThrow(/“floor” is scaled to nothing/);
    }));

  it.each([1, 5, 70_000])('%i triangles in one place are built and rendered', (n) =>
    withEngine(async (e) => {
      const indices = new Uint32Array(n * 3);
      for (let i = 0; i < n; i++) indices.set([0, 1, 2], i * 3);
      await e.load(scene({ ...one({ ...floor(), indices }), environment: constantSky(1) }), settings(8));
      const camera = {
        matrix: [1, 0, 0, 0, 0, 0, -1, 0, 0, 1, 0, 0, 0, 1, 0, 1],
        projection: 'perspective' as const,
        halfHeight: 0.5,
        nearM: 0,
        farM: 10,
        lensRadiusM: 0,
        focusDistanceM: 1,
      };
      await e.render({ camera, samples: 1 });
      expect(e.picture().rgba.every(Number.isFinite)).toBe(true);
    }),
  );

  it('an empty scene without light renders black', () =>
    withEngine(async (e) => {
      await e.load(scene({}), settings(8));
      await e.render({
        camera: {
          matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1],
          projection: 'perspective',
          halfHeight: 1,
          nearM: 0,
          farM: 10,
          lensRadiusM: 0,
          focusDistanceM: 1,
        },
        samples: 2,
      });
      expect(e.picture().rgba.every((x) => x === 0)).toBe(true);
    }));
});
