// From a document and a look to what is rendered: flags, lights, materials, culling; and memory counted before it is
// loaded.
import { skyValue } from '@variscen/core/environment';
import { type Change, SceneIndex, resolve } from '@variscen/core/looks';
import {
  type CameraSettings,
  IDENTITY,
  type SceneDocument,
  type SceneLight,
  cameraForScene,
  poseFor,
} from '@variscen/core/scene';
import { describe, expect, it } from 'vitest';
import {
  Look,
  attach,
  countDisplaced,
  countSelection,
  displacedMeshes,
  MASK,
  planMemory,
  select as selectPose,
  settingsOf,
} from '../host/index.ts';
import { PROFILES } from '@variscen/core/plan';
import { openNodeEngine } from '../host/node/index.ts';
import { floor, sphere, translated } from './fixtures.ts';

const material = (name: string, emissionStrength = 0) => ({
  name,
  baseColor: [0.5, 0.4, 0.3] as const,
  metallic: 0,
  roughness: 0.5,
  transmission: 0,
  ior: 1.5,
  specular: 1,
  emissionColor: [1, 0.5, 0.2] as const,
  emissionStrength,
  normalScale: 1,
  attenuationColor: [1, 1, 1] as const,
  attenuationDistanceM: null,
  solid: false,
  doubleSided: false,
  textures: {},
});
const shapes = [floor(1), sphere(8)];
const lamp: SceneLight = { type: 'point', color: [1, 1, 1], intensity: 5, radiusM: 0 };
const panel: SceneLight = { type: 'rectangle', color: [1, 1, 1], intensity: 2, widthM: 1, heightM: 1 };
async function stall(): Promise<SceneDocument> {
  const engine = await openNodeEngine(1);
  try {
    const meshes = await Promise.all(
      shapes.map(async (m) => ({
        name: m.name,
        blob: m.name,
        vertices: m.positions.length / 3,
        triangles: m.indices.length / 3,
        normals: !!m.normals,
        uv0: false,
        uv1: false,
        colors: false,
        min: [-1, -1, -1] as const,
        max: [1, 1, 1] as const,
        accelerationBytes: await engine.measureMesh(m),
      })),
    );
    return {
      version: 1,
      meshes,
      textures: [],
      cameras: [],
      materials: [material('Wood'), material('Copper'), material('Paper', 4)],
      lights: [lamp, panel],
      nodes: [
        { path: 'Stall', name: 'Stall', parent: -1, matrix: IDENTITY },
        { path: 'Stall/Counter', name: 'Counter', parent: 0, matrix: IDENTITY, parts: [{ mesh: 0, material: 0 }] },
        {
          path: 'Stall/Kettle',
          name: 'Kettle',
          parent: 0,
          matrix: translated(0, 1, 0),
          parts: [{ mesh: 1, material: 1 }],
        },
        { path: 'Lantern', name: 'Lantern', parent: -1, matrix: translated(500, 2, 0) },
        { path: 'Lantern/Paper', name: 'Paper', parent: 3, matrix: IDENTITY, parts: [{ mesh: 1, material: 2 }] },
        { path: 'Lantern/Flame', name: 'Flame', parent: 3, matrix: IDENTITY, light: 0 },
        { path: 'Panel', name: 'Panel', parent: -1, matrix: translated(0, 3, 0), light: 1 },
        { path: 'Crate', name: 'Crate', parent: -1, matrix: translated(-500, 0, 0), parts: [{ mesh: 0, material: 0 }] },
      ],
    };
  } finally {
    await engine.close();
  }
}
const camera = (d: SceneDocument, extra: Partial<CameraSettings> = {}): CameraSettings => ({
  ...cameraForScene({ ...d, nodes: d.nodes.slice(0, 3) }),
  ...extra,
});
const look = (d: SceneDocument, ...changes: Change[]) =>
  resolve(new SceneIndex(d), [{ id: 'x', name: 'x', kind: 'base', changes }]);
const set = (target: string, property: string, value: Change['value']): Change => ({ target, property, value });

const select = (d: SceneDocument, state: ReturnType<typeof look>, c: CameraSettings) =>
  selectPose(poseFor(d, undefined, c), state);

describe('a look, assembled', () => {
  it('hides what its groups hide, lights included', async () => {
    const d = await stall();
    const all = select(d, look(d), camera(d));
    const hidden = select(d, look(d, set('object:Lantern', 'object.shown', false)), camera(d));
    expect(all.instances.map((i) => i.name)).toEqual(['Stall/Counter', 'Stall/Kettle', 'Lantern/Paper', 'Crate']);
    expect(hidden.instances.map((i) => i.name)).toEqual(['Stall/Counter', 'Stall/Kettle', 'Crate']);
    expect([all.lights.length, hidden.lights.length]).toEqual([2, 1]);
  });
  it('passes visibility on as what rays may meet', async () => {
    const d = await stall();
    const masks = (...changes: Change[]) => select(d, look(d, ...changes), camera(d)).instances[1]!.mask;
    expect(masks()).toBe(MASK.ALL);
    expect(masks(set('object:Stall/Kettle', 'object.seenByCamera', false))).toBe(MASK.ALL & ~MASK.CAMERA);
    expect(
      masks(
        set('object:Stall', 'object.castsShadow', false),
        set('object:Stall/Kettle', 'object.seenInReflections', false),
      ),
    ).toBe(MASK.ALL & ~MASK.SHADOW & ~MASK.SPECULAR);
  });
  it('makes shadow catchers of an object, of all in a group, and of a ground that the look puts up', async () => {
    const d = await stall();
    const catching = (...changes: Change[]) => {
      const s = select(d, look(d, ...changes), camera(d));
      return { s, names: s.instances.filter((i) => i.mask & MASK.CATCHER).map((i) => i.name) };
    };
    expect(catching().names).toEqual([]);
    expect(catching(set('object:Crate', 'object.catcher', true)).names).toEqual(['Crate']);
    expect(catching(set('object:Stall', 'object.catcher', true)).names).toEqual(['Stall/Counter', 'Stall/Kettle']);
    const { s, names } = catching(
      set('environment', 'environment.ground', true),
      set('environment', 'environment.groundSize', 7),
      set('environment', 'environment.groundAt', [1, -2, 3]),
    );
    expect(names).toEqual(['Shadow catcher ground']);
    const profile = PROFILES[0]!;
    expect(settingsOf(profile, { widthPx: 8, heightPx: 8 }, s).planes).toEqual(['caught', 'behind']);
    expect(settingsOf(profile, { widthPx: 8, heightPx: 8 }, catching().s).planes).toEqual([]);
    const ground = s.instances.at(-1)!;
    expect(ground.matrix).toEqual([7, 0, 0, 0, 0, 1, 0, 0, 0, 0, 7, 0, 1, -2, 3, 1]);
  });
  it('wears the material that the look says, with its changed values', async () => {
    const d = await stall();
    const s = select(
      d,
      look(d, set('object:Stall/Kettle', 'object.material', 'Wood'), set('material:Wood', 'material.roughness', 0.1)),
      camera(d),
    );
    expect(s.materials[s.instances[1]!.material]).toMatchObject({ roughness: 0.1 });
    expect(s.instances[0]!.material).toBe(s.instances[1]!.material);
  });
  it('makes copies as instances of the same mesh, each in its own material', async () => {
    const d = await stall();
    const s = select(
      d,
      look(
        d,
        set('object:Stall/Kettle', 'object.copyLayout', 'grid'),
        set('object:Stall/Kettle', 'object.copyCount', [3, 1, 1]),
        set('object:Stall/Kettle', 'object.copySpacing', [2, 0, 0]),
        set('object:Stall/Kettle#3', 'object.material', 'Wood'),
        set('object:Stall/Kettle#2', 'object.shown', false),
      ),
      camera(d),
    );
    const kettles = s.instances.filter((i) => i.name.startsWith('Stall/Kettle'));
    expect(kettles.map((i) => [i.name, i.matrix[12], s.materials[i.material]!.name])).toEqual([
      ['Stall/Kettle', 0, 'Copper'],
      ['Stall/Kettle#3', 4, 'Wood'],
    ]);
    expect(new Set(kettles.map((i) => i.mesh)).size).toBe(1);
  });
  it('gives lights the size, cone, colour and place that the look says', async () => {
    const d = await stall();
    const s = select(
      d,
      look(
        d,
        set('light:Lantern/Flame', 'light.offset', [0, 1, 0]),
        set('light:Lantern/Flame', 'light.temperature', 2700),
        set('light:Panel', 'light.width', 4),
        set('light:Panel', 'light.turn', [0, 90, 0]),
        set('light:Panel', 'light.castsShadow', false),
      ),
      camera(d),
    );
    const [flame, lit] = [s.lights.find((l) => l.type === 'point')!, s.lights.find((l) => l.type === 'rectangle')!];
    expect(flame).toMatchObject({ position: [500, 3, 0], lightGroup: 0 });
    expect(flame.intensityCd[0] > flame.intensityCd[1] && flame.intensityCd[1] > flame.intensityCd[2]).toBe(true);
    expect(lit).toMatchObject({ widthM: 4, heightM: 1, shadowless: true });
    expect([0, 1, 2].map((k) => Math.round(lit.matrix[k]! * 1e6) / 1e6 + 0)).toEqual([0, 0, -1]);
  });
  it('puts other images on a material, and lays them as said', async () => {
    const d = await stall();
    const photo = `image:${'c'.repeat(64)}:64x32:image/png:bark.png`;
    const s = select(
      d,
      look(
        d,
        set('material:Copper', 'material.baseMap', photo),
        set('material:Copper', 'material.mapScale', 3),
        set('material:Copper', 'material.coat', 0.5),
      ),
      camera(d),
    );
    const copper = s.materials.find((m) => m.name === 'Copper')!;
    expect(s.textures).toEqual([
      { blob: 'c'.repeat(64), width: 64, height: 32, mediaType: 'image/png', name: 'bark.png' },
    ]);
    expect(copper.textures!.base).toMatchObject({ texture: 0, srgb: true, matrix: [3, 0, 0, 0, 3, 0] });
    expect(copper).toMatchObject({ coat: 0.5, coatRoughness: 0 });
    expect(countSelection(s, settingsOf(PROFILES[0]!, { widthPx: 8, heightPx: 8 }, s), 1).textures).toHaveLength(1);
  });
  it('puts a backdrop up where the look says, which catches light and is counted', async () => {
    const d = await stall();
    const s = select(
      d,
      look(
        d,
        set('environment', 'environment.backdrop', true),
        set('environment', 'environment.backdropSize', [10, 5, 4]),
        set('environment', 'environment.backdropAt', [1, 0, -2]),
        set('environment', 'environment.ground', true),
      ),
      camera(d),
    );
    const [sweep, ground] = s.instances.slice(-2);
    expect(ground!.name).toBe('Shadow catcher ground');
    const settings = settingsOf(PROFILES[0]!, { widthPx: 32, heightPx: 18 }, s);
    expect(sweep).toMatchObject({
      name: 'Backdrop sweep',
      matrix: [10, 0, -0, 0, 0, 5, 0, 0, 0, 0, 4, 0, 1, 0, -2, 1],
    });
    const e = await openNodeEngine(1);
    try {
      const planned = planMemory(countSelection(s, settings, 1));
      const loaded = await e.load(
        await attach(
          s,
          {
            geometry: (i) => Promise.resolve({ ...shapes[i]! } as never),
            deform: () => Promise.reject(new Error()),
            pixels: () => Promise.reject(new Error()),
            environment: () => Promise.reject(new Error()),
          },
          PROFILES[0]!.displacement,
          18,
        ),
        settings,
      );
      expect(loaded.bytes).toEqual(planned.bytes);
    } finally {
      await e.close();
    }
  });
  it('becomes clay, or is drawn with ink, with all that stands in it, unless that says otherwise', async () => {
    const d = await stall();
    const all = select(
      d,
      look(
        d,
        set('object:Stall', 'object.drawn', 'clay'),
        set('object:Stall/Kettle', 'object.drawn', 'own'),
        set('object:Lantern', 'object.drawn', 'ink'),
      ),
      camera(d),
    );
    const of = (name: string) => all.materials[all.instances.find((i) => i.name === name)!.material]!;
    expect(of('Stall/Counter')).toMatchObject({ name: 'Wood', baseColor: [0.55, 0.55, 0.55, 1], metallic: 0 });
    expect(of('Stall/Kettle')).toMatchObject({ name: 'Copper', baseColor: [0.5, 0.4, 0.3, 1] });
    expect(all.inked).toEqual(['Lantern/Paper']);
    expect(settingsOf(PROFILES[0]!, { widthPx: 8, heightPx: 8 }, all).planes).toEqual(
      expect.arrayContaining(['albedo', 'objects', 'depth', 'normal', 'emission']),
    );
  });
  it('stands where the look puts it, lights and culling with it', async () => {
    const d = await stall();
    const c = camera(d, { cullMarginPct: 5 });
    const put = (...changes: Change[]) => select(d, look(d, ...changes), c);
    const here = put();
    const near = put(
      set('object:Crate', 'object.offset', [500, 0, 0]),
      set('object:Lantern', 'object.offset', [0, 5, 0]),
    );
    expect(here.verdicts.find((v) => d.nodes[v.node]!.name === 'Crate')).toMatchObject({
      keep: false,
      reason: 'off-frame',
    });
    expect(near.verdicts.find((v) => d.nodes[v.node]!.name === 'Crate')).toMatchObject({ keep: true });
    expect(near.instances.find((i) => i.name === 'Crate')!.matrix).toMatchObject({ 12: 0, 13: 0, 14: 0 });
    expect(
      near.instances.find((i) => i.name === 'Lantern/Paper')!.matrix[13]! -
        here.instances.find((i) => i.name === 'Lantern/Paper')!.matrix[13]!,
    ).toBeCloseTo(5);
    expect(near.instances.find((i) => i.name === 'Stall/Kettle')!.matrix).toEqual(
      here.instances.find((i) => i.name === 'Stall/Kettle')!.matrix,
    );
  });
  it('has skies of its own for the camera, for reflections and for glass, fog, and light groups', async () => {
    const d = await stall();
    const all = select(
      d,
      look(
        d,
        set('environment', 'environment.kind', 'noon'),
        set('environment', 'environment.seen', 'none'),
        set('environment', 'environment.reflected', 'dusk'),
        set('environment', 'environment.refracted', 'noon'),
        set('environment', 'environment.strength', 2),
        set('environment', 'environment.fogDensity', 0.1),
        set('environment', 'environment.fogTop', 3),
        set('light:Panel', 'light.group', '4'),
        set('material:Paper', 'material.lightGroup', '2'),
      ),
      camera(d),
    );
    expect(all.environment).toMatchObject({ kind: 'noon', scale: [2, 2, 2] });
    const sky = { hash: 'c'.repeat(64), width: 16, height: 8, name: 'evening.hdr' };
    expect(
      select(d, look(d, set('environment', 'environment.kind', skyValue(sky))), camera(d)).environment,
    ).toMatchObject({ kind: sky });
    expect(all.environmentInputs).toMatchObject({ camera: 'none', reflection: { kind: 'dusk', scale: [2, 2, 2] } });
    expect(all.environmentInputs.refraction).toBeUndefined();
    expect(all.fog).toEqual({ extinctionPerM: 0.1, albedo: [0.9, 0.9, 0.9], anisotropy: 0.4, topM: 3 });
    const group = (i: number | undefined) => all.lightGroups[i!];
    expect([
      ...all.lights.map((l) => group(l.lightGroup)),
      group(all.instances.find((i) => i.name === 'Lantern/Paper')!.lightGroup),
      group(all.environmentGroup),
    ]).toEqual(['1', '4', '2', '1']);
    expect(settingsOf(PROFILES[2]!, { widthPx: 8, heightPx: 8 }, all).lightGroups).toBe(3);
    expect(select(d, look(d), camera(d))).toMatchObject({ environmentInputs: {}, fog: undefined, lightGroups: ['1'] });
    expect(
      settingsOf(PROFILES[2]!, { widthPx: 8, heightPx: 8 }, select(d, look(d), camera(d))).lightGroups,
    ).toBeUndefined();
  });
  it('gives each of many cameras what it gives that one alone, in any order', async () => {
    const d = await stall();
    const photo = `image:${'c'.repeat(64)}:64x32:image/png:bark.png`;
    const state = look(
      d,
      set('object:Stall/Kettle', 'object.copyLayout', 'grid'),
      set('object:Stall/Kettle', 'object.copyCount', [4, 1, 1]),
      set('object:Stall/Kettle', 'object.copySpacing', [40, 0, 0]),
      set('object:Stall/Kettle#3', 'object.material', 'Wood'),
      set('material:Wood', 'material.baseMap', photo),
      set('object:Crate', 'object.drawn', 'clay'),
      set('object:Stall/Counter', 'object.drawn', 'ink'),
      set('material:Paper', 'material.lightGroup', '3'),
      set('environment', 'environment.backdrop', true),
    );
    const away = camera(d, { matrix: translated(0, 0, 9000) });
    const cameras = [
      camera(d),
      camera(d, { cullMarginPct: 0 }),
      { ...away, cullMarginPct: 0 },
      camera(d, { cullMarginPct: 100, shiftX: 1 }),
      away,
      camera(d, { cullMarginPct: 0, widthPx: 300 }),
    ];
    for (const asClay of [false, true])
      for (const order of [cameras, cameras.toReversed(), [...cameras, ...cameras]]) {
        const shared = new Look(d, undefined, state, asClay);
        for (const c of order) {
          const { pose: _, ...alone } = selectPose(poseFor(d, undefined, c), state, asClay);
          expect(shared.through(c)).toEqual(alone);
        }
      }
  });
  it('knows a frame in which nothing would show', async () => {
    const d = await stall();
    const there = camera(d);
    const away = camera(d, { matrix: translated(0, 0, -9000) });
    const seen = (c: CameraSettings, ...changes: Change[]) => new Look(d, undefined, look(d, ...changes)).isSeenBy(c);
    const dark = set('environment', 'environment.kind', 'none');
    expect([seen(there, dark), seen(away, dark), seen(away, set('environment', 'environment.kind', 'noon'))]).toEqual([
      true,
      false,
      true,
    ]);
    const hidden = [set('environment', 'environment.kind', 'noon'), set('environment', 'environment.seen', 'none')];
    expect(seen(away, ...hidden)).toBe(false);
    expect(seen(away, ...hidden, set('environment', 'environment.backdrop', true))).toBe(true);
    expect(seen(there, dark, set('object:Stall', 'object.seenByCamera', false))).toBe(false);
    const lantern = camera(d, { matrix: translated(500, 2, 6) });
    expect(seen(lantern, dark)).toBe(true); // what gives light is seen too
  });
  it('turns lights off, scales them, and drops them at no strength', async () => {
    const d = await stall();
    const lights = (...changes: Change[]) => select(d, look(d, ...changes), camera(d)).lights;
    expect(
      lights(
        set('light:Lantern/Flame', 'light.intensity', 9),
        set('light:Lantern/Flame', 'light.color', [1, 0.5, 0]),
      )[0],
    ).toMatchObject({ intensityCd: [9, 4.5, 0] });
    expect(lights(set('light:Lantern/Flame', 'light.on', false)).map((l) => l.type)).toEqual(['rectangle']);
    expect(lights(set('light:Panel', 'light.intensity', 0)).map((l) => l.type)).toEqual(['point']);
  });
  it('culled, leaves out what is off frame but keeps what gives light; a material made to glow counts', async () => {
    const d = await stall();
    const names = (...changes: Change[]) =>
      select(d, look(d, ...changes), camera(d, { cullMarginPct: 5 })).instances.map((i) => i.name);
    expect(names()).toEqual(['Stall/Counter', 'Stall/Kettle', 'Lantern/Paper']);
    expect(names(set('material:Wood', 'material.emissionStrength', 3))).toContain('Crate');
  });
  it('takes exactly the memory that was counted from the document alone', async () => {
    const d = await stall();
    const s = select(
      d,
      look(
        d,
        set('environment', 'environment.kind', 'dusk'),
        set('environment', 'environment.seen', 'noon'),
        set('environment', 'environment.reflected', 'none'),
      ),
      camera(d),
    );
    const size = { widthPx: 40, heightPx: 30, maxBounces: 2, clampIndirect: 0, seed: 1 };
    const engine = await openNodeEngine(2);
    try {
      const scene = await attach(
        s,
        {
          geometry: (i) => Promise.resolve(shapes[i]!),
          deform: () => Promise.reject(new Error('nothing deforms')),
          pixels: () => Promise.reject(new Error('no textures')),
          environment: () => Promise.reject(new Error('no maps')),
        },
        PROFILES[0]!.displacement,
        30,
      );
      const taken = await engine.load(scene, size);
      expect(taken.bytes).toEqual(planMemory(countSelection(s, size, 2)).bytes);
    } finally {
      await engine.close();
    }
  });
  it('is displaced by a map: finer for its camera, in the memory that was counted, and higher where the map is white', async () => {
    const d0 = await stall();
    const ground = { ...shapes[0]!, uv0: new Float32Array([0, 0, 0, 1, 1, 1, 1, 0]) };
    const d: SceneDocument = {
      ...d0,
      meshes: d0.meshes.map((m, i) => (i ? m : { ...m, uv0: true })),
      textures: [{ name: 'Dents', blob: 't', mediaType: 'image/png', width: 2, height: 1 }],
    };
    const c = camera(d, { widthPx: 64, heightPx: 64 });
    const flat = select(d, look(d), c);
    const s = select(
      d,
      look(
        d,
        set('material:Wood', 'material.displacementMap', 'Dents'),
        set('material:Wood', 'material.displacement', 0.25),
      ),
      c,
    );
    const quality = { edgePx: 6, farM: 600, maxTriangles: 50_000 };
    expect(flat.meshes.some((m) => m.displaced)).toBe(false);
    expect(s.meshes.map((m) => m.displaced?.heightM)).toEqual([0.25, undefined]);
    expect(s.meshes[0]!.displaced!.placements).toHaveLength(2); // the counter, and the crate that wears the same
    const data = {
      geometry: (i: number) => Promise.resolve(i ? shapes[i]! : ground),
      pixels: () => Promise.resolve(Uint8Array.from([255, 0, 0, 255, 255, 0, 0, 255])),
      deform: () => Promise.reject(new Error('nothing deforms')),
      environment: () => Promise.reject(new Error('no maps')),
    };
    const size = { widthPx: 64, heightPx: 64, maxBounces: 2, clampIndirect: 0, seed: 1, planes: ['position'] as const };
    const engine = await openNodeEngine(1);
    try {
      const counts = await countDisplaced(await displacedMeshes(s, data, quality, 64), engine);
      const scene = await attach(s, data, quality, 64);
      const taken = await engine.load(scene, size);
      expect(scene.meshes[0]!.indices.length / 3).toBeGreaterThan(20);
      expect(taken.bytes).toEqual(planMemory(countSelection(s, size, 1, counts)).bytes);
      await engine.render({
        camera: {
          matrix: [1, 0, 0, 0, 0, 0, -1, 0, 0, 1, 0, 0, -500.6, 4, 0.6, 1],
          projection: 'orthographic',
          halfHeight: 0.2,
          nearM: 0.01,
          farM: 10,
          lensRadiusM: 0,
          focusDistanceM: 1,
        },
        samples: 1,
      });
      // down on the crate, far from the kettle
      expect(engine.picture().planes.position![(32 * 64 + 32) * 3 + 1]).toBeCloseTo(0.25, 3);
    } finally {
      await engine.close();
    }
  });
});

describe('what a camera leaves out', () => {
  /** The crate and the lantern stand outside its frame. */
  const cullOf = (d: SceneDocument) => camera(d, { cullMarginPct: 0 });
  const both = (d: SceneDocument, ...changes: Change[]) => ({
    full: select(d, look(d, ...changes), camera(d)),
    culled: select(d, look(d, ...changes), cullOf(d)),
  });

  it('does not change how finely a displaced mesh is split', async () => {
    const d0 = await stall();
    const d: SceneDocument = {
      ...d0,
      meshes: d0.meshes.map((m, i) => (i ? m : { ...m, uv0: true })),
      textures: [{ name: 'Dents', blob: 't', mediaType: 'image/png', width: 2, height: 1 }],
    };
    const { full, culled } = both(
      d,
      set('material:Wood', 'material.displacementMap', 'Dents'),
      set('material:Wood', 'material.displacement', 0.25),
    );
    expect(culled.instances.map((i) => i.name)).not.toContain('Crate');
    expect(culled.meshes[0]!.displaced!.placements).toHaveLength(2);
    expect(culled.meshes[0]!.displaced).toEqual(full.meshes[0]!.displaced);
  });
  it('changes neither who an object is in random choices, nor where the scene is thought to stand', async () => {
    const d0 = await stall();
    const away = { ...d0.nodes[0]!, matrix: translated(7000, 0, 0) };
    const d: SceneDocument = { ...d0, nodes: [away, ...d0.nodes.slice(1)] };
    const { full, culled } = both(d);
    expect(culled.instances.length).toBeLessThan(full.instances.length);
    const known = new Map(full.instances.map((i) => [i.name, i.identity]));
    for (const i of culled.instances) expect(i.identity).toBe(known.get(i.name));
    expect(new Set(known.values()).size).toBe(full.instances.length);
    expect(culled.middle).toEqual(full.middle);
  });
  it('does not change in which place a light group stands, nor does the order of things in the scene', async () => {
    const d = await stall();
    const changes = [
      set('light:Panel', 'light.group', '4'),
      set('light:Lantern/Flame', 'light.group', '7'),
      set('material:Paper', 'material.lightGroup', '2'),
    ];
    const { full, culled } = both(d, ...changes);
    expect(full.lightGroups).toEqual(['1', '2', '4', '7']);
    expect(culled.lightGroups).toEqual(full.lightGroups);
    const [stallNode, ...others] = d.nodes;
    const turned: SceneDocument = {
      ...d,
      nodes: [stallNode!, others[5]!, others[6]!, { ...others[2]!, parent: -1 }, ...others.slice(0, 2)],
    };
    expect(select(turned, look(turned, ...changes.slice(0, 1)), camera(turned)).lightGroups).toEqual(['1', '4']);
  });
  it('does not change the coarser levels of a texture that another reads otherwise', async () => {
    const d = await stall();
    const photo = `image:${'c'.repeat(64)}:64x32:image/png:bark.png`;
    const changes = [
      set('material:Copper', 'material.roughnessMap', photo), // numbers
      set('material:Wood', 'material.baseMap', photo), // colours
    ];
    const s = select(d, look(d, ...changes), camera(d));
    const use = (name: string, slot: 'base' | 'metallicRoughness') =>
      s.materials.find((m) => m.name === name)!.textures![slot]!;
    expect(s.textures.map((t) => t.name)).toEqual(['bark.png', 'bark.png']);
    expect(use('Wood', 'base').texture).not.toBe(use('Copper', 'metallicRoughness').texture);
    expect(s.textures).toHaveLength(2);
  });
});
