import { type Change, SceneIndex, lightPlace, placeDocument, resolve, withLights } from '@variscen/core/looks';
import { PLAIN_RIG } from '@variscen/core/rigs';
import { type Rgb, type SceneDocument, lookAt, worldMatrices } from '@variscen/core/scene';
import { describe, expect, it } from 'vitest';
import { changedTogether, lightsBefore } from './lightsTogether.ts';

const KEY = '+rectangle/Key';
const FILL = '+spot/Fill';
const document = withLights(
  {
    version: 1,
    nodes: [{ path: 'Lamp', name: 'Lamp', parent: -1, matrix: lookAt([0, 2, 4], [0, 1, 0]), light: 0 }],
    meshes: [],
    materials: [],
    textures: [],
    lights: [{ type: 'point', color: [1, 1, 1], intensity: 4, radiusM: 0 }],
    cameras: [],
  } as unknown as SceneDocument,
  [KEY, FILL],
);
const index = new SceneIndex(document);
const set = (path: string, property: string, value: Change['value']): Change => ({
  target: `light:${path}`,
  property: `light.${property}`,
  value,
});
const base = [
  set(KEY, 'added', true),
  set(KEY, 'intensity', 100),
  set(KEY, 'offset', [3, 2, 0]),
  set(KEY, 'turn', [0, 90, 0]),
  set(FILL, 'added', true),
  set(FILL, 'intensity', 2),
  set(FILL, 'offset', [-3, 1, 0]),
  set(FILL, 'turn', [0, -90, 0]),
];
const stateOf = (changes: readonly Change[]) =>
  resolve(index, [
    { id: 'base', name: '', kind: 'base', changes: base },
    { id: 'more', name: '', kind: 'patch', changes },
  ]);
const world = worldMatrices(document.nodes);
const paths = ['Lamp', KEY, FILL];
const pivot: Rgb = [0, 1, 0];
const together = (settings: Partial<typeof PLAIN_RIG>, more: readonly Change[] = []) => {
  const state = stateOf(more);
  const before = lightsBefore(index, state, paths, (n) => world[n]);
  const changes = changedTogether(index, state, before, pivot, { ...PLAIN_RIG, ...settings });
  return { before, changes, after: stateOf([...more, ...changes]) };
};
const placeIn = (state: ReturnType<typeof stateOf>, path: string) => {
  const placed = placeDocument(document, state);
  const i = placed.nodes.findIndex((n) => n.path === path);
  return lightPlace(state, path, worldMatrices(placed.nodes)[i]!);
};
const close = (a: readonly number[], b: readonly number[]) => a.forEach((x, k) => expect(x).toBeCloseTo(b[k]!, 3));

describe('lights changed together', () => {
  it('are as they were with the sliders in the middle', () => {
    const { changes, before } = together({});
    expect(before.map((l) => l.target)).toEqual(paths.map((p) => `light:${p}`));
    for (const c of changes) expect(stateOf([]).get(c.target, c.property)).toBe(c.value);
  });

  it('turn about what is looked at, each with its way of looking, clockwise from above', () => {
    const { after } = together({ turnDeg: 90 });
    const key = placeIn(after, KEY);
    close(key.slice(12, 15), [0, 2, 3]);
    close(key.slice(8, 11), [0, 0, 1]); // it looked along −X at the middle, and looks there now along −Z
    close(placeIn(after, 'Lamp').slice(12, 15), [-4, 2, 0]);
    const back = together({ turnDeg: -90 }, together({ turnDeg: 90 }).changes).after;
    close(placeIn(back, FILL), placeIn(stateOf([]), FILL));
  });

  it('scale in strength, and by contrast all but the strongest where one looks', () => {
    const strength = (state: ReturnType<typeof stateOf>, path: string) => state.get(`light:${path}`, 'light.intensity');
    const { after } = together({ strengthStops: 1, contrastStops: 2 });
    expect([KEY, FILL, 'Lamp'].map((p) => strength(after, p))).toEqual([200, 1, 2]);
  });

  it('grow warmer by their reciprocals, within what lights have', () => {
    const warm = together({ warmth: 1 }).after;
    expect(warm.get(`light:${KEY}`, 'light.temperature')).toBe(Math.round(1e6 / (1e6 / 6500 + 100)));
    const hot = together({ warmth: 1 }, [set(KEY, 'temperature', 1700)]).after;
    expect(hot.get(`light:${KEY}`, 'light.temperature')).toBe(1700);
  });

  it('that are off are left alone', () => {
    const { before } = together({}, [set(FILL, 'on', false)]);
    expect(before.map((l) => l.target)).not.toContain(`light:${FILL}`);
  });
});
