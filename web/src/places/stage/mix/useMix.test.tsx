// A mix of the lights of a look: what it changes, and what it keeps while something else is looked at.
import { SceneIndex, resolve } from '@variscen/core/looks';
import type { SceneDocument } from '@variscen/core/scene';
import { act, renderHook } from '@testing-library/react';
import { describe, expect, it } from 'vitest';
import { useMix } from './useMix.ts';

const lamp = (path: string) => ({
  path,
  name: path,
  parent: -1,
  matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1],
  light: 0,
});
const scene = new SceneIndex({
  version: 1,
  meshes: [],
  textures: [],
  cameras: [],
  materials: [],
  nodes: [lamp('Counter lamp'), lamp('Lantern')],
  lights: [{ type: 'point', color: [1, 1, 1], intensity: 10, radiusM: 0.01 }],
} as unknown as SceneDocument);
const look = resolve(scene, [
  {
    id: 'base',
    name: '',
    kind: 'base',
    changes: [{ target: 'light:Lantern', property: 'light.group', value: '2' }],
  },
]);
const mixOf = (projectId: string) => renderHook(() => useMix(projectId, look)).result;
const brighter = { target: 'light:Lantern', property: 'light.intensity', value: 20 };

describe('the mix of a look', () => {
  it('changes what is shown and not the look, and leaves all as it was when it is cleared', () => {
    const mix = mixOf('one');
    expect(mix.current.rows.map((row) => row.key)).toEqual(['light:Counter lamp', 'light:Lantern', 'environment']);
    act(() => mix.current.set('light:Lantern', { stops: 1 }));
    expect(mix.current.changes).toEqual([brighter]);
    expect(mix.current.state!.get('light:Lantern', 'light.intensity')).toBe(20);
    expect(look.get('light:Lantern', 'light.intensity')).toBe(10);
    act(() => mix.current.set('light:Counter lamp', { isAlone: true }));
    expect(mix.current.state!.get('light:Lantern', 'light.on')).toBe(false);
    act(() => mix.current.clear());
    expect(mix.current.changes).toEqual([]);
    expect(mix.current.state).toBe(look);
  });

  it('of which a part was recorded has the rest of it, and what is looked at alone stays alone', () => {
    const mix = mixOf('four');
    act(() => mix.current.set('light:Lantern', { stops: 1, isAlone: true }));
    const off = { target: 'light:Counter lamp', property: 'light.on', value: false };
    expect(mix.current.changes).toContainEqual(off);
    act(() => mix.current.settle(['light:Lantern']));
    expect(mix.current.changes).toContainEqual(off);
    expect(mix.current.changes.some((c) => c.target === 'light:Lantern')).toBe(false);
    expect(mix.current.rows.find((row) => row.key === 'light:Lantern')!.setting).toMatchObject({
      stops: 0,
      isAlone: true,
    });
  });

  it('of single lights is there again after one of light groups was looked at, and of its own project alone', () => {
    const mix = mixOf('two');
    act(() => mix.current.set('light:Lantern', { stops: 1 }));
    act(() => mix.current.mixBy('group'));
    expect(mix.current.rows.map((row) => [row.key, row.members])).toEqual([
      ['1', ['light:Counter lamp', 'environment']],
      ['2', ['light:Lantern']],
    ]);
    expect(mix.current.changes).toEqual([]);
    act(() => mix.current.set('1', { isMuted: true }));
    act(() => mix.current.mixBy('target'));
    expect(mix.current.changes).toEqual([brighter]);
    expect(mixOf('three').current.changes).toEqual([]);
  });
});
