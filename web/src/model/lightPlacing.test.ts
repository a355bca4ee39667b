import { SceneIndex, lightOf, lightPlace, placeDocument, resolve } from '@variscen/core/looks';
import {
  type CameraSettings,
  type LightType,
  type Matrix,
  type Rgb,
  type SceneDocument,
  cameraForScene,
  lookAt,
  worldMatrices,
} from '@variscen/core/scene';
import { describe, expect, it } from 'vitest';
import {
  type Stand,
  copyChanges,
  isAddedLight,
  newLightChanges,
  standByCamera,
  standChanges,
  standFor,
} from './lightPlacing.ts';

const NODE: Matrix = lookAt([4, 2, -1], [0, 1, 0]);
const document: SceneDocument = {
  version: 1,
  nodes: [
    { path: 'Lamp', name: 'Lamp', parent: -1, matrix: NODE, light: 0 },
    { path: 'Ball', name: 'Ball', parent: -1, matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 9, 0, 1] },
  ],
  meshes: [],
  materials: [],
  textures: [],
  lights: [
    { type: 'spot', color: [1, 1, 1], intensity: 5, radiusM: 0, innerConeRad: Math.PI / 18, outerConeRad: Math.PI / 9 },
  ],
  cameras: [],
};
const index = new SceneIndex(document);
type Changes = Parameters<typeof resolve>[1][number]['changes'];
const stateOf = (...changes: Changes) => resolve(index, [{ id: 'base', name: '', kind: 'base', changes }]);
function lamps(changes: Changes) {
  const state = stateOf(...changes);
  const placed = placeDocument(document, state);
  const world = worldMatrices(placed.nodes);
  return placed.nodes.flatMap((n, i) => {
    const light = n.light === undefined ? undefined : lightOf(placed, state, i, world[i]!);
    return light ? [{ path: n.path, ...light }] : [];
  });
}
const placeOf = (m: Matrix): Rgb => [m[12]!, m[13]!, m[14]!];
const close = (a: readonly number[], b: readonly number[], digits = 3) =>
  a.forEach((x, k) => expect(x).toBeCloseTo(b[k]!, digits));
/** It stands there and its −Z goes through the point. */
function standsSo(m: Matrix, { place, at }: Stand) {
  close(placeOf(m), place);
  const way = at.map((x, k) => x - place[k]!);
  const length = Math.hypot(...way);
  const axis = Math.hypot(m[8]!, m[9]!, m[10]!);
  close(
    [-m[8]! / axis, -m[9]! / axis, -m[10]! / axis],
    way.map((x) => x / length),
  );
}
const spot = { point: [1, 0, 2] as Rgb, normal: [0, 1, 0] as Rgb, from: [4, 3, 2] as Rgb };

describe('where a light goes by a click', () => {
  it('is before what it lights, along its normal', () => {
    expect(standFor('lit', spot, 2)).toEqual({ place: [1, 2, 2], at: [1, 0, 2] });
  });
  it('is where a mirror there would show it, as far from the normal as the eye is', () => {
    const { place, at } = standFor('highlight', spot, Math.SQRT2);
    close(place, [0, 1, 2], 9);
    expect(at).toEqual(spot.point);
    close(standFor('highlight', { ...spot, from: [1, 5, 2] }, 3).place, [1, 3, 2], 9);
  });

  it.each(['rectangle', 'disc', 'ball', 'spot', 'point', 'sun'] as const)(
    'a new %s light stands there, and white paper under it is white at the exposure of the look',
    (type: LightType) => {
      const stand = standFor('lit', spot, 2);
      for (const stops of [0, 1.5]) {
        const exposure = { target: 'grade', property: 'grade.exposure', value: stops };
        const { target, changes } = newLightChanges(index, stateOf(exposure), type, 'Key', stand);
        expect(isAddedLight(target)).toBe(true);
        const [, key] = lamps([...changes, exposure]);
        const { light, matrix } = key!;
        if (type !== 'sun') close(placeOf(matrix), stand.place);
        if (type !== 'ball' && type !== 'point')
          standsSo(matrix, type === 'sun' ? { place: [0, 0, 0], at: [0, -1, 0] } : stand);
        const lux = {
          sun: () => light.intensity,
          point: () => light.intensity / 4,
          spot: () => light.intensity / 4,
          rectangle: () => (light.type === 'rectangle' ? (light.intensity * light.widthM * light.heightM) / 4 : 0),
          disc: () => ('radiusM' in light ? (light.intensity * Math.PI * light.radiusM ** 2) / 4 : 0),
          ball: () => ('radiusM' in light ? (light.intensity * Math.PI * light.radiusM ** 2) / 4 : 0),
        }[type]();
        expect(((lux / Math.PI) * 2 ** stops).toFixed(2)).toBe('1.00');
      }
    },
  );

  it('is so for a light of the scene, whose node stands and is turned otherwise, and one that was aimed', () => {
    const aimed = stateOf({ target: 'light:Lamp', property: 'light.aimAt', value: 'Ball' });
    for (const how of ['lit', 'highlight'] as const) {
      const stand = standFor(how, spot, 3);
      const changes = standChanges(index, aimed, 'light:Lamp', stand, NODE);
      standsSo(lamps(changes)[0]!.matrix, stand);
      expect(changes).toContainEqual({ target: 'light:Lamp', property: 'light.aimAt', value: 'none' });
    }
  });

  it('beside a camera is above its left shoulder, looking at what it focuses on', () => {
    const camera: CameraSettings = {
      ...cameraForScene(document),
      matrix: lookAt([0, 1, 5], [0, 1, 0]),
      focusDistanceM: 5,
    };
    const { place, at } = standByCamera(camera);
    close(place, [-1.5, 2.5, 5], 9);
    close(at, [0, 1, 0], 9);
  });
});

describe('a light like another', () => {
  const camera: CameraSettings = { ...cameraForScene(document), matrix: lookAt([2, 1, 5], [2, 0, 0]) };
  const key = newLightChanges(index, stateOf(), 'rectangle', 'Key', standFor('lit', spot, 2));
  const warm = { target: key.target, property: 'light.temperature', value: 3000 };
  const all = [...key.changes, warm];
  const there = () => {
    const { path, matrix } = lamps(all)[1]!;
    return { path, matrix, type: 'rectangle' as const };
  };

  it('has all its values, and those alone, and stands beside it', () => {
    const copy = copyChanges(index, stateOf(...all), there(), 'Key 2', { shift: [0.5, 0, 0] });
    const [, first, second] = lamps([...all, ...copy.changes]);
    expect({ ...second!, path: '', matrix: [] }).toEqual({ ...first!, path: '', matrix: [] });
    close(placeOf(second!.matrix), [1.5, 2, 2]);
    expect(copy.changes.map((c) => c.property)).not.toContain('light.on');
  });
  it('mirrored stands on the other side of where the camera looks, and looks at the mirrored point', () => {
    const copy = copyChanges(index, stateOf(...all), there(), 'Key 2', { mirroredIn: camera });
    standsSo(lamps([...all, ...copy.changes])[2]!.matrix, { place: [3, 2, 2], at: [3, 0, 2] });
  });
  it('goes on following what the first one is aimed at', () => {
    const aim = { target: key.target, property: 'light.aimAt', value: 'Ball' };
    const state = stateOf(...all, aim);
    const copy = copyChanges(index, state, there(), 'Key 2', { mirroredIn: camera });
    expect(copy.changes).toContainEqual({ ...aim, target: copy.target });
    expect(copy.changes.map((c) => c.property)).not.toContain('light.turn');
  });
  it('of a light of the scene is one that looks add', () => {
    const lamp = lamps([])[0]!;
    const copy = copyChanges(index, stateOf(), { ...lamp, type: 'spot' }, 'Lamp 2', { shift: [0, 1, 0] });
    const made = lamps(copy.changes)[1]!;
    expect(made.light).toEqual(lamp.light);
    close(made.matrix.slice(0, 11), lightPlace(stateOf(), 'Lamp', NODE).slice(0, 11));
  });
});
