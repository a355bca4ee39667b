// Ways to select, on scenes of any shape.
import { SceneIndex, resolve } from '@variscen/core/looks';
import type { SceneDocument } from '@variscen/core/scene';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { copiedMaterials, nextCopy } from './materialNames.ts';
import { clicked, inverse, materialsWorn, nodeOf, sameMaterial, targetOf, withChildren } from './selection.ts';
import { EVERYTHING, hierarchyOf, layersOf, treeRows } from './treeRows.ts';

const MATERIALS = ['Clay', 'Copper', 'Wood'];
/** A scene whose node i has a parent before it, and is a group, an object in one of three materials, or a light. */
const scenes = fc
  .array(fc.record({ parent: fc.nat(), kind: fc.constantFrom('group', 'object', 'light'), material: fc.nat(2) }), {
    minLength: 1,
    maxLength: 25,
  })
  .map((list): SceneDocument => {
    const nodes: { path: string; name: string; parent: number }[] = [];
    list.forEach(({ parent, kind, material }, i) => {
      const up = i === 0 ? -1 : (parent % (i + 1)) - 1;
      const name = `Thing ${i}`;
      nodes.push({
        path: up < 0 ? name : `${nodes[up]!.path}/${name}`,
        name,
        parent: up,
        matrix: [],
        ...(kind === 'object' && { parts: [{ mesh: 0, material }] }),
        ...(kind === 'light' && { light: 0 }),
      } as never);
    });
    return {
      nodes,
      meshes: [{}],
      materials: MATERIALS.map((name) => ({ name })),
      lights: [{}],
      textures: [],
      cameras: [],
    } as unknown as SceneDocument;
  });
const selected = (d: SceneDocument, picks: readonly number[]): number[] => [
  ...new Set(picks.map((p) => p % d.nodes.length)),
];
const within = (d: SceneDocument, node: number, of: number): boolean => {
  for (let n = node; n >= 0; n = d.nodes[n]!.parent) if (n === of) return true;
  return false;
};
const stateOf = (d: SceneDocument) => resolve(new SceneIndex(d), []);

describe('selecting', () => {
  it('with what is in it takes exactly what lies in the selected things', () => {
    fc.assert(
      fc.property(scenes, fc.array(fc.nat()), (d, picks) => {
        const picked = selected(d, picks);
        const all = withChildren(hierarchyOf(d), picked);
        expect(all).toEqual(d.nodes.flatMap((_, i) => (picked.some((p) => within(d, i, p)) ? [i] : [])));
        expect(withChildren(hierarchyOf(d), all)).toEqual(all); // once is enough
      }),
    );
  });
  it('everything else takes every object and light outside, and of that everything else the first ones', () => {
    fc.assert(
      fc.property(scenes, fc.array(fc.nat()), (d, picks) => {
        const h = hierarchyOf(d);
        const things = d.nodes.flatMap((n, i) => (n.parts || n.light !== undefined ? [i] : []));
        const picked = withChildren(h, selected(d, picks));
        const rest = inverse(d, h, picked);
        expect([...rest, ...things.filter((t) => picked.includes(t))].sort((a, b) => a - b)).toEqual(things);
      }),
    );
  });
  it('what wears the same takes the selected objects themselves, and none in another material', () => {
    fc.assert(
      fc.property(scenes, fc.array(fc.nat(), { minLength: 1 }), (d, picks) => {
        const h = hierarchyOf(d);
        const state = stateOf(d);
        const picked = withChildren(h, selected(d, picks));
        const same = sameMaterial(d, h, state, picked);
        const worn = new Set(picked.flatMap((n) => materialsWorn(d, state, n)));
        for (const n of picked) if (d.nodes[n]!.parts) expect(same).toContain(n);
        for (const n of same) expect(materialsWorn(d, state, n).some((m) => worn.has(m))).toBe(true);
        d.nodes.forEach((n, i) => {
          if (n.parts && !same.includes(i)) expect(worn.has(materialsWorn(d, state, i)[0]!)).toBe(false);
        });
      }),
    );
  });
  it('by clicks: one alone, one more or less, a stretch of rows', () => {
    const rows = [10, 11, 12, 13, 14];
    expect(clicked(rows, [10, 12], 12, 14, 'alone')).toEqual([14]);
    expect(clicked(rows, [10, 12], 12, 14, 'more')).toEqual([10, 12, 14]);
    expect(clicked(rows, [10, 12], 12, 12, 'more')).toEqual([10]);
    expect(clicked(rows, [10], 11, 13, 'through')).toEqual([10, 11, 12, 13]);
    expect(clicked(rows, [13], 13, 11, 'through')).toEqual([13, 11, 12]);
    expect(clicked(rows, [10], 99, 13, 'through')).toEqual([13]); // where it began is not in the list any more
  });
  it('more twice is as before, whatever is selected', () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.nat(9)), fc.nat(9), (selected, n) => {
        const rows = [0, 1, 2, 3, 4, 5, 6, 7, 8, 9];
        const twice = clicked(rows, clicked(rows, selected, undefined, n, 'more'), n, n, 'more');
        expect([...twice].sort()).toEqual([...selected].sort());
      }),
    );
  });
  it('names a node by its target and finds it again', () => {
    fc.assert(
      fc.property(scenes, (d) => {
        const index = new SceneIndex(d);
        d.nodes.forEach((n, i) => {
          const target = targetOf(d, i);
          expect(target.startsWith('light:')).toBe(n.light !== undefined && !n.parts);
          expect(nodeOf(index, target)).toBe(i);
        });
        for (const other of [null, '', 'grade', 'material:Clay', 'object:Nothing', 'scene'])
          expect(nodeOf(index, other)).toBeUndefined();
      }),
    );
  });
});

describe('rows of the tree', () => {
  it('unfolded wholly are every node, under its group; folded wholly the topmost alone', () => {
    fc.assert(
      fc.property(scenes, (d) => {
        const h = hierarchyOf(d);
        const layers = layersOf(d);
        const rows = treeRows(d, h, new Set(d.nodes.map((_, i) => i)), { ...EVERYTHING, find: '' }, layers);
        expect(new Set(rows.map((r) => r.node)).size).toBe(d.nodes.length);
        rows.forEach((r, k) => {
          const up = d.nodes[r.node]!.parent;
          if (up >= 0) {
            const above = rows.findIndex((x) => x.node === up);
            expect(above).toBeGreaterThanOrEqual(0);
            expect(above).toBeLessThan(k);
            expect(r.depth).toBe(rows[above]!.depth + 1);
          } else expect(r.depth).toBe(0);
        });
        expect(treeRows(d, h, new Set(), { ...EVERYTHING, find: '' }, layers).map((r) => r.node)).toEqual(
          d.nodes.flatMap((n, i) => (n.parent < 0 ? [i] : [])),
        );
      }),
    );
  });
  it('sought by a name are those that have it, folded or not', () => {
    fc.assert(
      fc.property(scenes, fc.nat(24), (d, n) => {
        const find = `thing ${n}`;
        const rows = treeRows(d, hierarchyOf(d), new Set(), { ...EVERYTHING, find }, layersOf(d));
        expect(rows.map((r) => r.node)).toEqual(
          expect.arrayContaining(d.nodes.flatMap((x, i) => (x.name.toLowerCase() === find ? [i] : []))),
        );
        for (const r of rows) expect(d.nodes[r.node]!.path.toLowerCase()).toContain(find.split(' ')[1]!);
      }),
    );
  });
});

describe('copied materials', () => {
  const wear = (value: string) => ({ target: 'object:Cup', property: 'object.material', value });
  const tint = (name: string) => ({ target: `material:${name}`, property: 'material.roughness', value: 0.3 });
  it('are found wherever they are recorded or pending', () => {
    const p = {
      base: [wear('Copper#2')],
      options: [{ changes: [tint('Clay#3'), wear('Copper')] }],
      patches: [{ changes: [wear('Wood#2')] }],
      pending: [{ destination: 'base', changes: [tint('Copper#2'), tint('Glaze#7')] }],
    };
    expect(copiedMaterials(p as never).sort()).toEqual(['Clay#3', 'Copper#2', 'Glaze#7', 'Wood#2']);
  });
  it('get the first name that is free, of the material and not of its copy', () => {
    expect(nextCopy('Copper', [])).toBe('Copper#2');
    expect(nextCopy('Copper#2', ['Copper#2', 'Copper#3'])).toBe('Copper#4');
    fc.assert(
      fc.property(fc.constantFrom('Copper', 'Copper#5', 'Clay #1'), fc.array(fc.nat(6)), (name, taken) => {
        const names = taken.map((n) => `${name.replace(/#\d+$/, '')}#${n}`);
        const next = nextCopy(name, names);
        expect(names).not.toContain(next);
        expect(next).toMatch(/#\d+$/);
      }),
    );
  });
});
