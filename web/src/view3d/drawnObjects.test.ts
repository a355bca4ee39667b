// The view's drawn objects, without a canvas: which there are, what flipping makes anew, and what it only puts aside.
import { type Change, SceneIndex, resolve } from '@variscen/core/looks';
import { type SceneDocument, placements } from '@variscen/core/scene';
import * as THREE from 'three';
import { describe, expect, it } from 'vitest';
import { DrawnObjects, nodesOf } from './drawnObjects.ts';
import type { Surfaces } from './surfaces.ts';

const MATRIX = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
const cup = (i: number) => ({
  path: `Shelf/Cup ${i}`,
  name: `Cup ${i}`,
  parent: 0,
  matrix: [...MATRIX.slice(0, 12), i, 0, 0, 1],
  parts: [{ mesh: i % 2, material: 0 }],
});
const document = {
  nodes: [{ path: 'Shelf', name: 'Shelf', parent: -1, matrix: MATRIX }, ...Array.from({ length: 6 }, (_, i) => cup(i))],
  meshes: [{ triangles: 10 }, { triangles: 20 }],
  materials: [{ name: 'Clay' }, { name: 'Copper' }],
  textures: [],
  cameras: [],
  lights: [],
} as unknown as SceneDocument;
const scene = new SceneIndex(document);
const world = placements(document);
const geometries = [0, 1].map(() =>
  new THREE.BufferGeometry()
    .setAttribute('position', new THREE.BufferAttribute(new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]), 3))
    .setIndex([0, 1, 2]),
);
const stateOf = (...changes: Change[]) => resolve(scene, [{ id: 'x', name: '', kind: 'base', changes }]);
const hidden = (...paths: string[]) => document.nodes.map((n) => !paths.includes(n.path));
const ALL = hidden();

/** Stands in for the materials, which need textures from the server: one object for each name and manner. */
function surfaces() {
  const made = new Map<string, THREE.Material>();
  const asked: string[] = [];
  const of = (key: string) => {
    asked.push(key);
    let m = made.get(key);
    if (!m) made.set(key, (m = new THREE.MeshBasicMaterial({ name: key })));
    return m;
  };
  return {
    asked,
    surfaces: {
      begin: () => undefined,
      end: () => undefined,
      material: (name: string) => of(name),
      drawnMaterial: (name: string, looks: string) => of(`${looks} ${name}`),
      ghost: () => of('ghost'),
    } as unknown as Surfaces,
  };
}
function view() {
  const { asked, surfaces: s } = surfaces();
  const drawn = new DrawnObjects(document, s);
  return {
    asked,
    drawn,
    show: (shown: readonly boolean[], ...changes: Change[]) =>
      drawn.show(stateOf(...changes), document, world, shown, (mesh) => geometries[mesh]),
    lists: () =>
      (drawn.group.children as THREE.InstancedMesh[]).map((m) => ({
        mesh: m,
        nodes: [...nodesOf(m)],
        count: m.count,
        surface: (m.material as THREE.Material).name,
      })),
  };
}
const wear = (path: string, material: string): Change => ({
  target: `object:${path}`,
  property: 'object.material',
  value: material,
});

describe('drawn objects', () => {
  it('of one mesh and material are one list of instances, each where its node is', () => {
    const v = view();
    const r = v.show(ALL);
    expect(v.lists().map(({ nodes, count, surface }) => ({ nodes, count, surface }))).toEqual([
      { nodes: [1, 3, 5], count: 3, surface: 'Clay' },
      { nodes: [2, 4, 6], count: 3, surface: 'Clay' },
    ]);
    expect(r).toEqual({ triangles: 3 * 10 + 3 * 20, changed: true });
    const m = new THREE.Matrix4();
    v.lists()[0]!.mesh.getMatrixAt(2, m);
    expect(m.elements[12]).toBe(4);
  });
  it('that did not change are not made anew', () => {
    const v = view();
    v.show(ALL);
    const before = v.lists().map((l) => l.mesh);
    expect(v.show(ALL, { target: 'object:Shelf/Cup 1', property: 'object.castsShadow', value: false })).toMatchObject({
      changed: false,
    });
    expect(v.lists().map((l) => l.mesh)).toEqual(before);
  });
  it('that are hidden are drawn no more, and come back as the same objects', () => {
    const v = view();
    v.show(ALL);
    const [first, second] = v.lists().map((l) => l.mesh);
    expect(v.show(hidden('Shelf/Cup 0', 'Shelf/Cup 2', 'Shelf/Cup 4'))).toEqual({ triangles: 60, changed: true });
    expect(v.lists().map((l) => l.mesh)).toEqual([second]);
    v.show(ALL);
    expect(new Set(v.lists().map((l) => l.mesh))).toEqual(new Set([first, second]));
  });
  it('of which some are hidden keep their object, with fewer instances, and have room for all of them again', () => {
    const v = view();
    v.show(ALL);
    const before = v.lists()[0]!.mesh;
    v.show(hidden('Shelf/Cup 2'));
    expect(v.lists()[0]).toMatchObject({ nodes: [1, 5], count: 2 });
    expect(v.lists()[0]!.mesh).toBe(before);
    v.show(ALL);
    expect(v.lists()[0]).toMatchObject({ nodes: [1, 3, 5], count: 3 });
    expect(v.lists()[0]!.mesh).toBe(before);
  });
  it('that a camera leaves out are ghosts, whatever they wear, until it does not', () => {
    const v = view();
    const show = (...ghosts: string[]) =>
      v.drawn.show(
        stateOf(wear('Shelf/Cup 0', 'Copper')),
        document,
        world,
        ALL,
        (mesh) => geometries[mesh],
        new Set(ghosts),
      );
    const surfaces = () => Object.fromEntries(v.lists().map(({ nodes, surface }) => [nodes.join(), surface]));
    const before = { '1': 'Copper', '3,5': 'Clay', '2,4,6': 'Clay' };
    show();
    expect(surfaces()).toEqual(before);
    expect(show('Shelf/Cup 0', 'Shelf/Cup 2', 'Shelf/Cup 3').changed).toBe(true);
    expect(surfaces()).toEqual({ '1,3': 'ghost', '5': 'Clay', '4': 'ghost', '2,6': 'Clay' });
    show();
    expect(surfaces()).toEqual(before);
  });
  it('in other materials go to lists of their own, which are used again for any material', () => {
    const v = view();
    v.show(ALL, wear('Shelf/Cup 0', 'Copper'));
    expect(
      v
        .lists()
        .map(({ nodes, surface }) => [surface, nodes])
        .sort(),
    ).toEqual([
      ['Clay', [2, 4, 6]],
      ['Clay', [3, 5]],
      ['Copper', [1]],
    ]);
    v.show(ALL);
    const objects = new Set<THREE.Object3D>();
    // flipping to and fro does not heap up objects
    for (let i = 0; i < 20; i++) {
      v.show(ALL, ...(i % 2 ? [wear('Shelf/Cup 0', 'Copper'), wear('Shelf/Cup 1', 'Copper')] : []));
      for (const l of v.lists()) objects.add(l.mesh);
    }
    expect(objects.size).toBeLessThanOrEqual(6);
  });
  it('wear what is drawn for the whole scene, asked for once each', () => {
    const v = view();
    v.show(
      ALL,
      { target: 'scene', property: 'scene.drawn', value: 'clay' },
      { target: 'object:Shelf/Cup 1', property: 'object.drawn', value: 'own' },
    );
    expect(
      v
        .lists()
        .map((l) => l.surface)
        .sort(),
    ).toEqual(['Clay', 'clay Clay', 'clay Clay']);
    expect([...v.asked].sort()).toEqual(['Clay', 'clay Clay']);
  });
  it('thinned are a share of each list, and whole again afterwards', () => {
    const v = view();
    v.show(ALL);
    v.drawn.thin(4); // of six triangles
    expect(v.lists().map((l) => l.count)).toEqual([2, 2]);
    v.drawn.thin(null);
    expect(v.lists().map((l) => l.count)).toEqual([3, 3]);
  });
  it('held by a handle go along, and nothing else does', () => {
    const v = view();
    const m = new THREE.Matrix4();
    v.show(ALL);
    v.drawn.preview(new Set([3]), world, new THREE.Matrix4().makeTranslation(0, 7, 0));
    const [list] = v.lists();
    const heights = [0, 1, 2].map((k) => {
      list!.mesh.getMatrixAt(k, m);
      return m.elements[13];
    });
    expect(heights).toEqual([0, 7, 0]);
  });
});
