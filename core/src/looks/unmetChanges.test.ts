import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { joinedMet, packMet, unpackMet } from '../cull/metNodes.ts';
import { type CameraSettings, IDENTITY, type SceneDocument, cameraForScene } from '../scene/index.ts';
import { inputsOf } from './fingerprint.ts';
import { SceneIndex } from './properties.ts';
import { type Change, resolve } from './resolve.ts';
import { changesOnlyUnmet } from './unmetChanges.ts';

const material = (name: string, emissionStrength = 0) => ({
  name,
  baseColor: [0.5, 0.5, 0.5] as const,
  metallic: 0,
  roughness: 0.5,
  transmission: 0,
  ior: 1.5,
  specular: 1,
  emissionColor: [1, 1, 1] as const,
  emissionStrength,
  normalScale: 1,
  attenuationColor: [1, 1, 1] as const,
  attenuationDistanceM: null,
  solid: false,
  doubleSided: false,
  textures: {},
});
const at = (parent: number, ...materials: number[]) => ({
  parent,
  matrix: IDENTITY,
  ...(materials.length && { parts: materials.map((m) => ({ mesh: 0, material: m })) }),
});
const document = {
  version: 1,
  meshes: [{ name: 'box', min: [-1, -1, -1], max: [1, 1, 1] }],
  textures: [{ name: 'dents' }],
  cameras: [],
  lights: [{ type: 'point', color: [1, 1, 1], intensity: 5, radiusM: 0 }],
  materials: [material('Wood'), material('Copper'), material('Paper', 5), material('Tile')],
  nodes: [
    { path: 'Stall', name: 'Stall', ...at(-1) },
    { path: 'Stall/Counter', name: 'Counter', ...at(0, 0) },
    { path: 'Yard', name: 'Yard', ...at(-1) },
    { path: 'Yard/Shed', name: 'Shed', ...at(2, 3) },
    { path: 'Yard/Barrel', name: 'Barrel', ...at(2, 0, 1) },
    { path: 'Attic', name: 'Attic', ...at(-1) },
    { path: 'Attic/Lantern', name: 'Lantern', ...at(5, 2) },
    { path: 'Cellar', name: 'Cellar', ...at(-1, 3) },
    { path: 'Cellar/Candle', name: 'Candle', ...at(7), light: 0 },
  ],
} as unknown as SceneDocument;
const scene = new SceneIndex(document);
const camera = cameraForScene(document);
const set = (target: string, property: string, value: Change['value']): Change => ({ target, property, value });
const inputs = (changes: readonly Change[], c: CameraSettings = camera, hash = 'scene') =>
  inputsOf(hash, c, resolve(scene, [{ id: 'b', name: '', kind: 'base', changes }]));
/** The counter alone was met. */
const met = unpackMet(packMet([1], document.nodes.length), document.nodes.length);
const stands = (was: readonly Change[], is: readonly Change[], isMet = met) =>
  changesOnlyUnmet(inputs(was), inputs(is), resolve(scene, [{ id: 'b', name: '', kind: 'base', changes: is }]), isMet);
const hide = (path: string) => set(`object:${path}`, 'object.shown', false);

describe('a picture stands', () => {
  it('where something is hidden that no ray met, or all in a group', () => {
    expect(stands([], [hide('Yard/Shed')])).toBe(true);
    expect(stands([], [hide('Yard')])).toBe(true);
    expect(stands([], [hide('Stall/Counter')])).toBe(false);
    expect(stands([], [hide('Stall')])).toBe(false);
    expect(stands([], [hide('Yard/Shed'), hide('Stall/Counter')])).toBe(false);
  });
  it('not where something is shown again that was hidden, since no ray could meet it', () => {
    expect(stands([hide('Yard/Shed')], [])).toBe(false);
  });
  it('where less of something unmet is seen, not more', () => {
    const flag = (property: string, on: boolean) => set('object:Yard/Shed', property, on);
    for (const p of ['object.seenByCamera', 'object.seenInReflections', 'object.castsShadow']) {
      expect(stands([], [flag(p, false)])).toBe(true);
      expect(stands([flag(p, false)], [])).toBe(false);
    }
  });
  it('where a material changes that only unmet things wear, by themselves or by the look', () => {
    expect(stands([], [set('material:Tile', 'material.roughness', 0.1)])).toBe(true);
    expect(stands([], [set('material:Copper', 'material.baseColor', [1, 0, 0])])).toBe(true);
    expect(stands([], [set('material:Wood', 'material.roughness', 0.1)])).toBe(false); // the counter wears it
    const worn = set('object:Stall/Counter', 'object.material', 'Tile');
    expect(stands([worn], [worn, set('material:Tile', 'material.roughness', 0.1)])).toBe(false);
  });
  it('where something unmet wears another material, but none that gives light', () => {
    const wear = (m: string) => set('object:Yard/Shed', 'object.material', m);
    expect(stands([], [wear('Copper')])).toBe(true);
    expect(stands([wear('Copper')], [wear('Wood')])).toBe(true);
    expect(stands([], [wear('Paper')])).toBe(false);
    expect(stands([wear('Paper')], [wear('Copper')])).toBe(false);
    expect(stands([], [set('object:Stall/Counter', 'object.material', 'Copper')])).toBe(false);
  });
  it('not where light changes, wherever it is', () => {
    expect(stands([], [hide('Attic/Lantern')])).toBe(false);
    expect(stands([], [hide('Attic')])).toBe(false);
    expect(stands([], [hide('Cellar')])).toBe(false); // a lamp is in it
    expect(stands([], [set('material:Paper', 'material.roughness', 0.1)])).toBe(false);
    expect(stands([], [set('material:Tile', 'material.emissionStrength', 3)])).toBe(false);
    const glowing = set('material:Tile', 'material.emissionStrength', 3);
    expect(stands([glowing], [glowing, hide('Yard/Shed')])).toBe(false);
    expect(stands([], [set('light:Cellar/Candle', 'light.intensity', 9)])).toBe(false);
    expect(stands([], [set('environment', 'environment.strength', 2)])).toBe(false);
    expect(stands([], [set('grade', 'grade.exposure', 1)])).toBe(false);
  });
  it('not where surfaces move', () => {
    expect(stands([], [set('object:Yard/Shed', 'object.offset', [1, 0, 0])])).toBe(false);
    const dents = set('material:Tile', 'material.displacementMap', 'dents');
    expect(stands([], [dents])).toBe(false);
    expect(stands([dents], [dents, set('material:Tile', 'material.mapScale', 3)])).toBe(false);
    expect(stands([dents], [dents, set('material:Copper', 'material.roughness', 0.1)])).toBe(true);
  });
  it('not where the look makes copies, the camera is another, or the scene', () => {
    const rows = set('object:Yard/Shed', 'object.copyLayout', 'grid');
    expect(stands([rows], [rows, hide('Yard/Barrel')])).toBe(false);
    const is = [hide('Yard/Shed')];
    const state = resolve(scene, [{ id: 'b', name: '', kind: 'base', changes: is }]);
    const from = (c: CameraSettings, hash?: string) => changesOnlyUnmet(inputs([], c, hash), inputs(is), state, met);
    expect([from(camera), from({ ...camera, focalLengthMm: 85 }), from(camera, 'other')]).toEqual([true, false, false]);
  });
  it('not where what is known is of another scene', () => {
    expect(stands([], [hide('Yard/Shed')], unpackMet(packMet([1], 999), document.nodes.length))).toBe(false);
  });
});

describe('what was met', () => {
  it('comes back as it was packed, and parts together hold what each of them met', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 30_000 }), fc.array(fc.nat()), fc.array(fc.nat()), (count, a, b) => {
        const [x, y] = [a, b].map((list) => new Set(list.map((n) => n % count))) as [Set<number>, Set<number>];
        const [one, two] = [packMet(x, count), packMet(y, count)];
        const both = unpackMet(joinedMet(one, two)!, count);
        for (const n of [...x, ...y, 0, count - 1]) expect(both(n)).toBe(x.has(n) || y.has(n));
        expect(joinedMet(one, undefined)).toBeUndefined();
        expect(joinedMet(one, packMet([], count + 8))).toBeUndefined();
      }),
      { numRuns: 40 },
    );
  });
});
