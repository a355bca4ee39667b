import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  type Matrix,
  type Rgb,
  type SceneDocument,
  cameraForScene,
  transformPoint,
  worldMatrices,
} from '../scene/index.ts';
import {
  type Change,
  type Layer,
  CellHashes,
  SceneIndex,
  addedName,
  addedPath,
  addedPaths,
  freeName,
  lightNames,
  lightOf,
  lightPlace,
  lightTarget,
  lookingAt,
  middles,
  placeDocument,
  propertiesFor,
  remarksOf,
  resolve,
  turnOf,
  turnedScaled,
  withLights,
} from './index.ts';

const at = (x: number, y: number, z: number): Matrix => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, y, z, 1];
const document = {
  version: 1,
  nodes: [
    { path: 'Stall', name: 'Stall', parent: -1, matrix: at(3, 0, 0) },
    { path: 'Stall/Kettle', name: 'Kettle', parent: 0, matrix: at(1, 1, 0), parts: [{ mesh: 0, material: 0 }] },
    { path: 'Stall/Lamp', name: 'Lamp', parent: 0, matrix: at(0, 3, 0), light: 0 },
  ],
  meshes: [{ min: [-0.5, 0, -0.5], max: [0.5, 1, 0.5] }],
  materials: [{ name: 'Copper', emissionStrength: 0, emissionColor: [0, 0, 0] }],
  textures: [],
  lights: [{ type: 'spot', color: [1, 1, 1], intensity: 5, radiusM: 0, innerConeRad: 0.2, outerConeRad: 0.4 }],
  cameras: [],
} as unknown as SceneDocument;
const scene = new SceneIndex(document);
const layer = (changes: readonly Change[], id = 'base'): Layer => ({ id, name: id, kind: 'base', changes });
const set = (path: string, property: string, value: Change['value']): Change => ({
  target: lightTarget(path),
  property: `light.${property}`,
  value,
});
const KEY = addedPath('rectangle', 'Key');
const RIM = addedPath('spot', 'Rim');
const added = (path: string) => set(path, 'added', true);

/** What of a document gives light in a state, as the engine would have it. */
function lamps(given: SceneDocument, index: SceneIndex, layers: readonly Layer[]) {
  const state = resolve(index, layers);
  const placed = placeDocument(given, state);
  const world = worldMatrices(placed.nodes);
  return placed.nodes.flatMap((n, i) => {
    const light = n.light === undefined ? undefined : lightOf(placed, state, i, world[i]!);
    return light ? [{ path: n.path, ...light }] : [];
  });
}

describe('a light that a look adds', () => {
  it('stands only where a layer adds it, with what other layers say of it', () => {
    const option = layer([added(KEY), set(KEY, 'intensity', 40), set(KEY, 'offset', [1, 2, 3])], 'option');
    const patch = layer([set(KEY, 'intensity', 90)], 'patch');
    expect(lamps(document, scene, [patch]).map((l) => l.path)).toEqual(['Stall/Lamp']);
    const [, key] = lamps(document, scene, [option, patch]);
    expect(key).toMatchObject({ path: KEY, light: { type: 'rectangle', intensity: 90, widthM: 1 } });
    expect(key!.matrix.slice(12, 15)).toEqual([1, 2, 3]);
    expect(lamps(document, scene, [option, layer([set(KEY, 'on', false)], 'patch')])).toHaveLength(1);
    expect(lamps(document, scene, [option, layer([set(KEY, 'added', false)], 'patch')])).toHaveLength(1);
  });

  it('is found by its path whether the document has it yet or not, with the properties of its type alone', () => {
    const known = new SceneIndex(withLights(document, [KEY]));
    for (const index of [scene, known]) {
      expect(index.light(KEY)).toMatchObject({ type: 'rectangle' });
      expect(propertiesFor(index, lightTarget(KEY)).map((p) => p.id)).toContain('light.width');
      expect(propertiesFor(index, lightTarget(KEY)).map((p) => p.id)).not.toContain('light.radius');
      expect(propertiesFor(index, `object:${KEY}`)).toEqual([]);
      expect(propertiesFor(index, 'light:+lantern/Key')).toEqual([]);
    }
    expect(propertiesFor(scene, 'light:Stall/Lamp').map((p) => p.id)).not.toContain('light.added');
  });

  it('is no part of the scene that has vanished, wherever a patch speaks of it', () => {
    expect(remarksOf(resolve(scene, [layer([set(RIM, 'radius', 1), set(RIM, 'width', 2)])])).vanished).toEqual([]);
    expect(remarksOf(resolve(scene, [layer([set('Gone', 'radius', 1)])])).vanished).toHaveLength(1);
  });

  const paths = [KEY, RIM, addedPath('ball', 'Moon'), addedPath('sun', 'Sun'), addedPath('point', 'Bulb')];
  const change = fc.oneof(
    fc.constantFrom(...paths).map(added),
    fc.constantFrom(...paths).map((p) => set(p, 'on', false)),
    fc.tuple(fc.constantFrom(...paths), fc.integer({ min: 0, max: 9 })).map(([p, x]) => set(p, 'intensity', x)),
    fc
      .constantFrom(RIM, KEY, 'Stall/Lamp')
      .chain((p) => fc.constantFrom('Stall/Kettle', 'Stall', 'none', 'gone').map((to) => set(p, 'aimAt', to))),
    fc.constantFrom<Change>(
      { target: 'object:Stall', property: 'object.offset', value: [0, 0, 4] },
      { target: 'object:Stall/Lamp', property: 'object.copyLayout', value: 'grid' },
    ),
  );
  const layers = fc.array(fc.array(change, { maxLength: 6 }), { maxLength: 4 });

  it('law: a document that knows all lights of a project gives the same light as one that knows none', () => {
    fc.assert(
      fc.property(layers, fc.subarray(paths), (lists, others) => {
        const all = lists.map((l, i) => layer(l, String(i)));
        const known = withLights(document, [...new Set([...addedPaths(lists.flat()), ...others])].sort());
        expect(lamps(known, new SceneIndex(known), all)).toEqual(lamps(document, scene, all));
      }),
    );
  });

  it('law: what stands in no layer changes no hash, and where it was made first or last changes nothing', () => {
    const camera = cameraForScene(document);
    const hash = (list: readonly Change[]) => new CellHashes(scene, 'scene').ofLayers([layer(list)], camera);
    fc.assert(
      fc.property(fc.array(change, { maxLength: 8 }), fc.constantFrom(...paths), (list, path) => {
        const without = list.filter((c) => c.target !== lightTarget(path));
        fc.pre(!without.some((c) => c.property === 'object.copyLayout'));
        const absent = [...without, set(path, 'intensity', 3), set(path, 'offset', [1, 1, 1])];
        expect(hash(absent)).toBe(hash(without));
        expect(hash([...absent, added(path)])).not.toBe(hash(without));
      }),
    );
    const lights = [...paths].reverse().map(added);
    expect(lamps(document, scene, [layer(lights)]).map((l) => l.path)).toEqual(['Stall/Lamp', ...[...paths].sort()]);
  });

  it('has a name that a path can hold, and one that no other light of the project has', () => {
    expect(addedName('  Key / left \n#3 ')).toBe('Key left 3');
    expect(addedName('//')).toBeUndefined();
    expect(addedName('灯'.repeat(300))).toHaveLength(100);
    const index = new SceneIndex(withLights(document, [KEY, addedPath('spot', 'Key 2')]));
    const taken = lightNames(index);
    expect(freeName(taken, 'Key')).toBe('Key 3');
    expect(freeName(taken, 'Lamp')).toBe('Lamp 2');
    expect(freeName(taken, 'Fill')).toBe('Fill');
  });
});

describe('a light that is aimed', () => {
  const aimed = (path: string, to: string, more: readonly Change[] = []) =>
    lamps(document, scene, [layer([added(RIM), added(KEY), set(path, 'aimAt', to), ...more])]).find(
      (l) => l.path === path,
    )!.matrix;
  /** How far off the middle of a thing its −Z goes by, and whether it is before it. */
  const missedBy = (m: Matrix, middle: Rgb) => {
    const to = middle.map((x, k) => x - m[12 + k]!);
    const along = to.reduce((sum, x, k) => sum - x * m[8 + k]!, 0);
    expect(along).toBeGreaterThan(0);
    return Math.hypot(...to.map((x, k) => x + along * m[8 + k]!));
  };
  const kettle: Rgb = [4, 1.5, 0];

  it('looks at the middle of what it is aimed at, from wherever it is moved', () => {
    for (const path of [RIM, KEY, 'Stall/Lamp'])
      for (const offset of [
        [0, 0, 2],
        [-3, 7, 1],
        [0.5, -4, 0],
      ] as const)
        expect(missedBy(aimed(path, 'Stall/Kettle', [set(path, 'offset', offset)]), kettle)).toBeLessThan(1e-9);
    const straightAbove = aimed(RIM, 'Stall/Kettle', [set(RIM, 'offset', [4, 9, 0])]);
    expect(missedBy(straightAbove, kettle)).toBeLessThan(1e-9);
  });
  it('follows it where a look puts it, and when its group is moved', () => {
    const moved: Change = { target: 'object:Stall', property: 'object.offset', value: [0, 5, -2] };
    expect(missedBy(aimed(RIM, 'Stall/Kettle', [moved]), [4, 6.5, -2])).toBeLessThan(1e-9);
    expect(missedBy(aimed('Stall/Lamp', 'Stall/Kettle', [moved]), [4, 6.5, -2])).toBeLessThan(1e-9);
  });
  it('stays as it is where that is not there, and is turned further by what turns it', () => {
    const plain = lamps(document, scene, [layer([added(RIM)])])[1]!.matrix;
    expect(aimed(RIM, 'Gone')).toEqual(plain);
    expect(remarksOf(resolve(scene, [layer([added(RIM), set(RIM, 'aimAt', 'Gone')])])).unknown).toHaveLength(1);
    expect(remarksOf(resolve(scene, [layer([added(RIM), set(RIM, 'aimAt', 'Stall')])])).unknown).toEqual([]);
    const turned = aimed(RIM, 'Stall/Kettle', [set(RIM, 'offset', [4, 1.5, 5]), set(RIM, 'turn', [0, 90, 0])]);
    turned.slice(8, 11).forEach((x, k) => expect(x).toBeCloseTo([1, 0, 0][k]!, 9));
  });

  it('law: the turns that a matrix is made of make that matrix', () => {
    const place = fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -50, max: 50, noNaN: true })));
    fc.assert(
      fc.property(place, place, (from, to) => {
        const m = lookingAt(from as unknown as Rgb, to as unknown as Rgb);
        if (!m) return;
        const again = turnedScaled({ turn: turnOf(m), scale: [1, 1, 1] });
        for (let k = 0; k < 11; k++) expect(again[k]!).toBeCloseTo(m[k]!, 5);
      }),
    );
    const up = lookingAt([0, 0, 0], [0, 8, 0])!;
    turnedScaled({ turn: turnOf(up), scale: [1, 1, 1] }).forEach((x, k) => expect(x).toBeCloseTo(up[k]!, 9));
  });
  it('middle of a thing is where it is said to be', () => {
    expect(middles(document, worldMatrices(document.nodes))(1)).toEqual(kettle);
    expect(transformPoint(lightPlace(resolve(scene, []), 'Stall/Lamp', at(1, 2, 3)), [0, 0, 0])).toEqual([1, 2, 3]);
  });
});
