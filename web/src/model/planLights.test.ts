import { SceneIndex, resolve } from '@variscen/core/looks';
import { type SceneDocument, lookAt } from '@variscen/core/scene';
import { describe, expect, it } from 'vitest';
import { movedOnPlan, offPlane, planLightAt, planLights } from './planLights.ts';
import { type Side, onPlane } from './planGeometry.ts';

const document: SceneDocument = {
  version: 1,
  nodes: [
    { path: 'Panel', name: 'Panel', parent: -1, matrix: lookAt([1, 2, 3], [1, 2, 0]), light: 0 },
    { path: 'Bulb', name: 'Bulb', parent: -1, matrix: lookAt([0, 5, 0], [0, 0, 1]), light: 1 },
    { path: 'Sun', name: 'Sun', parent: -1, matrix: lookAt([0, 0, 0], [0, -1, 1]), light: 2 },
  ],
  meshes: [],
  materials: [],
  textures: [],
  lights: [
    { type: 'rectangle', color: [1, 1, 1], intensity: 5, widthM: 2, heightM: 1 },
    { type: 'point', color: [1, 1, 1], intensity: 5, radiusM: 0 },
    { type: 'sun', color: [1, 1, 1], intensity: 5, angularDiameterRad: 0 },
  ],
  cameras: [],
};
const index = new SceneIndex(document);
const stateOf = (
  ...changes: { target: string; property: string; value: boolean | readonly [number, number, number] }[]
) => resolve(index, [{ id: 'base', name: '', kind: 'base', changes }]);

describe('lights in the plan', () => {
  it('are where the look has them, as large as they are, and say where they shine; a sun is nowhere', () => {
    const lights = planLights(
      document,
      stateOf({ target: 'light:Panel', property: 'light.offset', value: [1, 0, 0] }),
      'top',
    );
    expect(lights.map((l) => l.name)).toEqual(['Panel', 'Bulb']);
    const [panel, bulb] = lights;
    expect(panel!.at).toEqual([2, -3]);
    expect(panel!.towards!.map((x) => Math.round(x * 1e6) / 1e6)).toEqual([2, -2]);
    const width = panel!.outline.map((p) => p[0]);
    expect(Math.max(...width) - Math.min(...width)).toBeCloseTo(2, 9);
    expect(bulb).toMatchObject({ at: [0, -0], towards: null, outline: [] });
  });
  it('that are off are shown so, and those of hidden objects are not there', () => {
    const off = planLights(document, stateOf({ target: 'light:Bulb', property: 'light.on', value: false }), 'top');
    expect(off.map((l) => l.isOn)).toEqual([true, false]);
    const gone = stateOf({ target: 'object:Panel', property: 'object.shown', value: false });
    expect(planLights(document, gone, 'top').map((l) => l.name)).toEqual(['Bulb']);
  });
  it.each(['top', 'front', 'side'] as const)(
    'dragged as seen from %s they go along what is seen there',
    (side: Side) => {
      const by = offPlane(side, [0.5, -2]);
      expect(onPlane(side, by).map((x) => x + 0)).toEqual([0.5, -2]);
      expect(by.filter((x) => x !== 0)).toHaveLength(2);
      const [panel] = planLights(document, stateOf(), side);
      const moved = movedOnPlan(panel!, [0.5, -2]);
      expect(moved.at).toEqual([panel!.at[0] + 0.5, panel!.at[1] - 2]);
      expect(moved.outline).toHaveLength(panel!.outline.length);
    },
  );
  it('are taken by the nearest to the pointer, within reach', () => {
    const lights = planLights(document, stateOf(), 'top');
    const toPx = (p: readonly [number, number]) => [p[0] * 10, p[1] * 10] as const;
    expect(planLightAt(lights, [11, -28], toPx, 9)?.name).toBe('Panel');
    expect(planLightAt(lights, [4, 4], toPx, 9)?.name).toBe('Bulb');
    expect(planLightAt(lights, [40, 40], toPx, 9)).toBeUndefined();
  });
});
