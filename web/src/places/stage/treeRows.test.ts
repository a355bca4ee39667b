import type { SceneDocument } from '@variscen/core/scene';
import { describe, expect, it } from 'vitest';
import { hierarchyOf, treeRows } from './treeRows.ts';

const node = (path: string, parent: number, leaf = false) => ({ path, name: path.split('/').at(-1)!, parent, matrix: [], ...(leaf && { parts: [{ mesh: 0, material: 0 }] }) });
const scene = { nodes: [node('Stall', -1), node('Stall/Counter', 0), node('Stall/Counter/Cup', 1, true), node('Lane', -1), node('Lane/Cup stand', 3, true)] } as unknown as SceneDocument;
const h = hierarchyOf(scene), names = (open: number[], find = '') => treeRows(scene, h, new Set(open), find).map((r) => `${' '.repeat(r.depth)}${scene.nodes[r.node]!.name}`);

describe('the tree', () => {
  it('shows what is open, in scene order', () => {
    expect(names([])).toEqual(['Stall', 'Lane']);
    expect(names([0, 1])).toEqual(['Stall', ' Counter', '  Cup', 'Lane']);
  });
  it('finds by name, narrowed by words of the path', () => {
    expect(names([], 'cup')).toEqual(['Cup', 'Cup stand']);
    expect(names([], 'lane cup')).toEqual(['Cup stand']);
  });
  it('counts the objects below each group', () => { expect([...h.below]).toEqual([1, 1, 0, 1, 0]); });
});
