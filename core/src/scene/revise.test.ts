import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { SceneIndex, resolve } from '../looks/index.ts';
import type { SceneDocument, SceneNode } from './document.ts';
import { matchScenes, reviseDocument } from './revise.ts';

const AT = (x: number) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, 0, 0, 1];
const MESH = {
  name: 'cup',
  blob: 'a',
  vertices: 3,
  triangles: 1,
  normals: false,
  uv0: false,
  uv1: false,
  colors: false,
  min: [0, 0, 0],
  max: [1, 1, 0],
  accelerationBytes: 1,
} as const;
const material = (name: string, roughness = 0.5) =>
  ({
    name,
    baseColor: [1, 1, 1],
    metallic: 0,
    roughness,
    transmission: 0,
    ior: 1.5,
    specular: 1,
    emissionColor: [0, 0, 0],
    emissionStrength: 1,
    normalScale: 1,
    attenuationColor: [1, 1, 1],
    attenuationDistanceM: null,
    solid: false,
    doubleSided: false,
    textures: {},
  }) as const;
/** “Group/Thing” lines into a document; every leaf is an object that wears the first material. */
function scene(
  paths: readonly string[],
  materials: readonly string[] = ['Clay'],
  x: (path: string) => number = () => 0,
): SceneDocument {
  const nodes: SceneNode[] = [];
  const at = new Map<string, number>();
  for (const path of paths) {
    const names = path.split('/');
    names.forEach((name, k) => {
      const p = names.slice(0, k + 1).join('/');
      const leaf = k === names.length - 1;
      if (at.has(p)) return;
      at.set(
        p,
        nodes.push({
          path: p,
          name,
          parent: k ? at.get(names.slice(0, k).join('/'))! : -1,
          matrix: AT(x(p)),
          ...(leaf && { parts: [{ mesh: 0, material: 0 }] }),
        }) - 1,
      );
    });
  }
  return {
    version: 1,
    nodes,
    meshes: [MESH],
    materials: materials.map((m) => material(m)),
    textures: [],
    lights: [],
    cameras: [],
  };
}
const revised = (known: SceneDocument[], after: SceneDocument, hand: Parameters<typeof matchScenes>[2] = []) =>
  reviseDocument(known, after, matchScenes(known, after, hand));
const id = (d: SceneDocument, label: string) => d.nodes.find((n) => (n.filePath ?? n.path) === label)?.path;

describe('matching a newer scene', () => {
  it('goes by path, then by name under a matched parent, then by a name that is unique', () => {
    const before = scene(['Stall/Cup', 'Stall/Jar', 'Left/Leaf', 'Right/Leaf', 'Gone']);
    const after = scene(['Stall/Cup', 'Shelf/Jar', 'Far/Left/Leaf', 'Far/Right/Leaf', 'New']);
    const m = matchScenes([before], after);
    expect(Object.fromEntries(m.matches.map((x) => [x.to, `${x.from} by ${x.how}`]))).toMatchObject({
      'Stall/Cup': 'Stall/Cup by path',
      'Shelf/Jar': 'Stall/Jar by name',
      'Far/Right': 'Right by name',
      'Far/Right/Leaf': 'Right/Leaf by parent',
    });
    expect(m.gone.map((t) => t.id)).toEqual(['Gone']);
    expect(m.added.map((t) => t.id).sort()).toEqual(['Far', 'New', 'Shelf']);
  });
  it('leaves alone what two things could be, until a hand says it', () => {
    const before = scene(['A/Cup', 'B/Cup']);
    const after = scene(['C/Cup', 'D/Cup']);
    expect(matchScenes([before], after).matches.filter((m) => m.kind === 'object')).toEqual([]);
    const by = matchScenes([before], after, [{ material: false, from: 'B/Cup', to: 'C/Cup' }]);
    expect(by.matches.filter((m) => m.kind === 'object')).toMatchObject([
      { from: 'B/Cup', to: 'C/Cup', how: 'hand' },
      { from: 'A/Cup', to: 'D/Cup', how: 'name' },
    ]);
  });
  it('says what moved and what has another shape', () => {
    const before = scene(['Cup', 'Jar']);
    const after = { ...scene(['Cup', 'Jar'], ['Clay'], (p) => (p === 'Jar' ? 2 : 0)) };
    expect(matchScenes([before], after).matches.filter((m) => m.kind === 'object')).toMatchObject([
      { to: 'Cup', moved: false, changed: false },
      { to: 'Jar', moved: true, changed: false },
    ]);
    expect(
      matchScenes([before], { ...after, meshes: [{ ...MESH, blob: 'b' }] })
        .matches.filter((m) => m.kind === 'object')
        .every((m) => m.changed),
    ).toBe(true);
  });
  it('keeps what looks call a thing, and shows what its file calls it', () => {
    const before = scene(['Stall/Cup'], ['Copper']);
    const after = revised([before], scene(['Booth/Mug'], ['Brass']), [
      { material: false, from: 'Stall/Cup', to: 'Booth/Mug' },
      { material: true, from: 'Copper', to: 'Brass' },
    ]);
    expect(after.nodes.find((n) => n.name === 'Mug')).toMatchObject({ path: 'Stall/Cup', filePath: 'Booth/Mug' });
    expect(after.materials[0]).toMatchObject({ name: 'Copper', label: 'Brass' });
    const again = revised([after, before], scene(['Booth/Mug'], ['Brass']));
    expect(again.nodes.find((n) => n.name === 'Mug')!.path).toBe('Stall/Cup');
    expect(again.materials[0]!.name).toBe('Copper');
  });
  it('gives a thing its looks back when it comes back after a revision without it', () => {
    const first = scene(['Cup', 'Jar']);
    const second = revised([first], scene(['Jar']));
    const third = revised([second, first], scene(['Cup', 'Jar']));
    const change = { target: 'object:Cup', property: 'object.shown', value: false };
    const layers = [{ id: 'base', name: '', kind: 'base' as const, changes: [change] }];
    expect(resolve(new SceneIndex(second), layers).unmatched).toEqual([change]);
    expect(resolve(new SceneIndex(third), layers).get('object:Cup', 'object.shown')).toBe(false);
  });
  it('never gives a new thing the identity of an old one that is not it', () => {
    const before = scene(['Cup']);
    const after = revised([before], scene(['Mug', 'Cup']), [{ material: false, from: 'Cup', to: 'Mug' }]);
    expect(id(after, 'Mug')).toBe('Cup');
    expect(id(after, 'Cup')).toBe('Cup (2)');
  });
});

describe('whatever happens to a scene', () => {
  const name = fc.constantFrom('Kettle', 'Cup', 'Jar', 'Lid', 'Tray', 'Lamp');
  const start = fc.uniqueArray(
    fc.tuple(fc.constantFrom('Stall', 'Lane', 'Roof'), name, fc.nat(3)).map(([g, n, k]) => `${g}/${n} ${k}`),
    { minLength: 1, maxLength: 14 },
  );
  const step = fc.oneof(
    fc.record({ kind: fc.constant('rename' as const), at: fc.nat(), to: name }),
    fc.record({ kind: fc.constant('move' as const), at: fc.nat(), to: fc.constantFrom('Stall', 'Lane', 'Cart') }),
    fc.record({ kind: fc.constant('delete' as const), at: fc.nat() }),
    fc.record({ kind: fc.constant('add' as const), name }),
  );

  it('nothing recorded is lost, each thing keeps its own, and going back gives the old state exactly', () => {
    fc.assert(
      fc.property(start, fc.array(fc.array(step, { maxLength: 6 }), { minLength: 1, maxLength: 4 }), (paths, edits) => {
        let now = paths.map((path, i) => ({ path, thing: i }));
        let next = paths.length;
        const documents = [scene(paths)];
        const identities = new Map(now.map((n) => [n.thing, n.path]));
        const changes = paths.map((p) => ({ target: `object:${p}`, property: 'object.castsShadow', value: false }));
        const layers = [{ id: 'base', name: '', kind: 'base' as const, changes }];
        const stateOf = (d: SceneDocument) => {
          const r = resolve(new SceneIndex(d), layers);
          return {
            set: [...r.values.values()].map((v) => v.target).sort(),
            left: r.unmatched.map((c) => c.target).sort(),
          };
        };
        const first = stateOf(documents[0]!);
        for (const round of edits) {
          const before = new Map(now.map((n) => [n.thing, n.path]));
          const taken = () => new Set(now.map((n) => n.path));
          for (const e of round) {
            if (e.kind === 'add') {
              const path = `Cart/${e.name} ${next}`;
              if (!taken().has(path)) now.push({ path, thing: next });
              next++;
              continue;
            }
            if (!now.length) continue;
            const i = e.at % now.length;
            const [group, leaf] = now[i]!.path.split('/') as [string, string];
            if (e.kind === 'delete') {
              now = now.filter((_, k) => k !== i);
              continue;
            }
            const path = e.kind === 'rename' ? `${group}/${e.to} ${leaf.split(' ')[1]!}` : `${e.to}/${leaf}`;
            if (!taken().has(path)) now[i] = { ...now[i]!, path };
          }
          // the hand says what became of each thing that is still there; the rules alone may only guess
          const hand = now
            .filter((n) => before.has(n.thing))
            .map((n) => ({ material: false, from: identities.get(n.thing)!, to: n.path }));
          const after = revised(
            documents,
            scene(now.map((n) => n.path).length ? now.map((n) => n.path) : ['Ground']),
            hand,
          );
          documents.unshift(after);
          for (const n of now) {
            const i = id(after, n.path)!;
            if (before.has(n.thing)) expect(i).toBe(identities.get(n.thing));
            else identities.set(n.thing, i);
          }
          expect(new Set(after.nodes.map((n) => n.path)).size).toBe(after.nodes.length);
          const s = stateOf(after);
          expect([...s.set, ...s.left].sort()).toEqual(changes.map((c) => c.target).sort());
          for (const n of now.filter((x) => x.thing < paths.length))
            expect(s.set).toContain(`object:${paths[n.thing]!}`);
        }
        expect(stateOf(documents.at(-1)!)).toEqual(first);
      }),
      { numRuns: 200 },
    );
  });
});
