import { describe, expect, it } from 'vitest';
import { type CameraSettings, IDENTITY, type SceneDocument, cameraForScene } from '../scene/index.ts';
import { cellHash, differences, inputsOf } from './fingerprint.ts';
import { SceneIndex } from './properties.ts';
import { type Change, resolve } from './resolve.ts';

const material = (name: string) => ({
  name,
  baseColor: [0.5, 0.5, 0.5] as const,
  metallic: 0,
  roughness: 0.5,
  transmission: 0,
  ior: 1.5,
  specular: 1,
  emissionColor: [0, 0, 0] as const,
  emissionStrength: 0,
  normalScale: 1,
  attenuationColor: [1, 1, 1] as const,
  attenuationDistanceM: null,
  solid: false,
  doubleSided: false,
  textures: {},
});
const part = (m: number) => ({ parts: [{ mesh: 0, material: m }] });
const document = {
  version: 1,
  meshes: [{ name: 'box', min: [-1, -1, -1], max: [1, 1, 1] }],
  textures: [],
  cameras: [],
  lights: [{ type: 'point', color: [1, 1, 1], intensity: 5, radiusM: 0 }],
  materials: ['Wood', 'Copper', 'Celadon', 'Spare'].map(material),
  nodes: [
    { path: 'Stall', name: 'Stall', parent: -1, matrix: IDENTITY },
    { path: 'Stall/Counter', name: 'Counter', parent: 0, matrix: IDENTITY, ...part(0) },
    { path: 'Stall/Kettle', name: 'Kettle', parent: 0, matrix: IDENTITY, ...part(1) },
    { path: 'Ware', name: 'Ware', parent: -1, matrix: IDENTITY },
    { path: 'Ware/Cup', name: 'Cup', parent: 3, matrix: IDENTITY, ...part(2) },
    { path: 'Ware/Candle', name: 'Candle', parent: 3, matrix: IDENTITY, light: 0 },
  ],
} as unknown as SceneDocument;
const scene = new SceneIndex(document);
const camera = cameraForScene(document);
const set = (target: string, property: string, value: Change['value']): Change => ({ target, property, value });
const inputs = (changes: readonly Change[], c: CameraSettings = camera) =>
  inputsOf('scene', c, resolve(scene, [{ id: 'b', name: '', kind: 'base', changes }]));
const same = (before: readonly Change[], more: Change) =>
  cellHash(inputs(before)) === cellHash(inputs([...before, more]));

const hideCup = set('object:Ware/Cup', 'object.shown', false);
const hideWare = set('object:Ware', 'object.shown', false);
const celadon = set('material:Celadon', 'material.roughness', 0.1);

describe('a picture does not become old by what it does not show', () => {
  it('materials that nothing shown wears', () => {
    expect(same([], celadon)).toBe(false);
    expect(same([hideCup], celadon)).toBe(true);
    expect(same([hideWare], celadon)).toBe(true);
    expect(same([], set('material:Spare', 'material.roughness', 0.1))).toBe(true);
    const worn = set('object:Stall/Kettle', 'object.material', 'Spare');
    expect(same([worn], set('material:Spare', 'material.roughness', 0.1))).toBe(false);
    expect(same([hideCup, set('object:Stall/Kettle', 'object.material', 'Celadon')], celadon)).toBe(false);
  });
  it('what hidden things wear and hidden lamps give; where they stand goes on counting', () => {
    const wear = set('object:Ware/Cup', 'object.material', 'Copper');
    const lamp = set('light:Ware/Candle', 'light.intensity', 50);
    expect([same([], wear), same([hideCup], wear), same([hideWare], wear)]).toEqual([false, true, true]);
    expect([same([], lamp), same([hideCup], lamp), same([hideWare], lamp)]).toEqual([false, false, true]);
    expect(same([hideWare], set('object:Ware/Cup', 'object.offset', [1, 0, 0]))).toBe(false);
    expect(same([hideCup], hideWare)).toBe(false);
  });
  it('where a look makes copies, all of it counts: a copy is as its original', () => {
    const copies = [set('object:Ware/Cup', 'object.copyLayout', 'grid'), hideCup];
    expect(same(copies, celadon)).toBe(false);
    expect(same([hideCup, set('object:Stall/Kettle', 'object.material', 'Celadon#2')], celadon)).toBe(false);
    expect(same([hideCup, set('object:Ware/Cup#2', 'object.shown', true)], celadon)).toBe(false);
  });
  it('says no difference of it', () => {
    const state = resolve(scene, [{ id: 'b', name: '', kind: 'base', changes: [hideCup, celadon] }]);
    expect(differences(inputs([hideCup]), inputs([hideCup, celadon]), state)).toEqual([]);
  });
});

describe('a camera', () => {
  const sharp = { ...camera, fStop: null };
  const blurred = { ...camera, fStop: 2.8 };
  const flat = { ...camera, projection: 'orthographic' as const };
  const sameFor = (c: CameraSettings, more: Partial<CameraSettings>) =>
    cellHash(inputs([], c)) === cellHash(inputs([], { ...c, ...more }));
  it('is told by what it shows: focus only with an f-stop, the height of view only without a lens', () => {
    expect([sameFor(sharp, { focusDistanceM: 9 }), sameFor(blurred, { focusDistanceM: 9 })]).toEqual([true, false]);
    expect([sameFor(sharp, { blades: 6 }), sameFor(blurred, { blades: 6 })]).toEqual([true, false]);
    expect([sameFor(camera, { orthoHalfHeightM: 9 }), sameFor(flat, { orthoHalfHeightM: 9 })]).toEqual([true, false]);
    expect([sameFor(camera, { focalLengthMm: 99 }), sameFor(flat, { focalLengthMm: 99 })]).toEqual([false, true]);
    expect([sameFor(flat, { fStop: 2 }), sameFor(sharp, { fStop: 2 })]).toEqual([true, false]);
  });
  it('names as different what shows, and only that', () => {
    const state = resolve(scene, []);
    const of = (was: CameraSettings, now: CameraSettings) =>
      differences(inputs([], was), inputs([], now), state).map((d) => d.what);
    expect(of(sharp, { ...sharp, focusDistanceM: 9 })).toEqual([]);
    expect(of(sharp, blurred)).toEqual(['f-stop']);
    expect(of(sharp, { ...blurred, focusDistanceM: 9 })).toEqual(['focus distance', 'f-stop']);
  });
});
