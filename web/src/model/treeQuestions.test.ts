import { type Change, SceneIndex, resolve } from '@variscen/core/looks';
import { type SceneDocument, cameraForScene } from '@variscen/core/scene';
import { describe, expect, it } from 'vitest';
import { answerOf, changedFacets } from './treeQuestions.ts';

const at = (x: number, z: number) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, 0, z, 1];
const document = {
  version: 1,
  nodes: [
    { path: 'Stall', name: 'Stall', parent: -1, matrix: at(0, 0) },
    { path: 'Stall/Counter', name: 'Counter', parent: 0, matrix: at(0, -5), parts: [{ mesh: 0, material: 0 }] },
    { path: 'Stall/Lamp', name: 'Lamp', parent: 0, matrix: at(0, 0), light: 0 },
    { path: 'Crate', name: 'Crate', parent: -1, matrix: at(500, -5), parts: [{ mesh: 0, material: 0 }] },
  ],
  meshes: [{ name: 'box', min: [-1, -1, -1], max: [1, 1, 1] }],
  materials: [{ name: 'Wood' }],
  textures: [],
  cameras: [],
  lights: [{ type: 'point', color: [1, 1, 1], intensity: 5, radiusM: 0 }],
} as unknown as SceneDocument;
const index = new SceneIndex(document);
const look = (...changes: Change[]) =>
  resolve(index, [{ id: 'x', name: 'Look', kind: 'option', facet: 'visibility', changes }]);
const hidden = (path: string): Change => ({ target: `object:${path}`, property: 'object.shown', value: false });
const nodes = (is: (node: number) => boolean) => document.nodes.flatMap((n, i) => (is(i) ? [n.path] : []));
const camera = { ...cameraForScene(document), matrix: at(0, 0), nearM: 0.1, farM: 100 };

describe('what the tree is asked to show only', () => {
  it('is hidden with the group that it stands in, and a light that is off', () => {
    const state = look(hidden('Stall'));
    expect(nodes(answerOf('hidden', index, state, new Map(), undefined))).toEqual([
      'Stall',
      'Stall/Counter',
      'Stall/Lamp',
    ]);
  });
  it('is changed by an option, not by the base', () => {
    const changes = [hidden('Crate')];
    const byBase = resolve(index, [{ id: 'base', name: 'base', kind: 'base', changes }]);
    expect([...changedFacets(byBase)]).toEqual([]);
    const state = look(...changes);
    expect([...changedFacets(state)]).toEqual([['Crate', 'visibility']]);
    expect(nodes(answerOf('changed', index, state, changedFacets(state), undefined))).toEqual(['Crate']);
  });
  it('lies off the frame of a camera; groups and lights have no shape to be off it', () => {
    expect(nodes(answerOf('offFrame', index, look(), new Map(), camera))).toEqual(['Crate']);
    expect(nodes(answerOf('offFrame', index, look(), new Map(), undefined))).toEqual([]);
  });
});
