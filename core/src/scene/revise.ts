// A newer file of a scene takes the place of an older one without costing the work done on it. Looks refer to things by
// an identity: the path that a node had (the name that a material had) when it first came in. A match says which thing
// of the new file is which known thing; the new document is then written with the old identities, and what its own file
// calls them beside. So nothing that was recorded is ever rewritten: what matches goes on, what is gone waits under its
// identity and counts again when it comes back, and an earlier revision gives exactly what it gave.
import type { SceneDocument, SceneMaterial, SceneNode } from './document.ts';
import type { Matrix } from './vectors.ts';
import { worldMatrices } from './matrix.ts';

export type ThingKind = 'object' | 'group' | 'light' | 'camera' | 'material';
export interface Thing {
  readonly kind: ThingKind;
  /** Path of a node, name of a material, by which looks refer to it. */
  readonly id: string;
  /** As its file calls it. */
  readonly label: string;
}
export interface HandMatch {
  readonly material: boolean;
  readonly from: string;
  readonly to: string;
}
export interface ThingMatch {
  readonly kind: ThingKind;
  /** Identity of the known thing. */
  readonly from: string;
  /** What the new file calls it. */
  readonly to: string;
  readonly how: 'path' | 'parent' | 'name' | 'hand';
  /** Stands, lies or is scaled otherwise in the world. */
  readonly moved: boolean;
  /** Has another shape, another material, or other values of its own. */
  readonly changed: boolean;
}
export interface SceneMatch {
  readonly matches: readonly ThingMatch[];
  /** In the present revision and not in the new file. */
  readonly gone: readonly Thing[];
  readonly added: readonly Thing[];
}

export const filePathOf = (n: SceneNode): string => n.filePath ?? n.path;
export const materialLabelOf = (m: SceneMaterial): string => m.label ?? m.name;
function kindOf(n: SceneNode): ThingKind {
  if (n.parts) return 'object';
  if (n.light !== undefined) return 'light';
  return n.camera !== undefined ? 'camera' : 'group';
}

interface Known {
  readonly id: string;
  readonly label: string;
  readonly kind: ThingKind;
  readonly name: string;
  readonly parent: string | null;
  readonly present: boolean;
  readonly matrix: Matrix;
  readonly print: string;
}

/**
 * @param known documents that were in force before, the present one first; a thing is as the first that has it says.
 */
function knownNodes(known: readonly SceneDocument[]): Map<string, Known> {
  const out = new Map<string, Known>();
  known.forEach((d, age) => {
    const world = worldMatrices(d.nodes);
    d.nodes.forEach((n, i) => {
      if (!out.has(n.path))
        out.set(n.path, {
          id: n.path,
          label: filePathOf(n),
          kind: kindOf(n),
          name: n.name,
          parent: n.parent < 0 ? null : d.nodes[n.parent]!.path,
          present: age === 0,
          matrix: world[i]!,
          print: printOf(d, n),
        });
    });
  });
  return out;
}
/** What a node is apart from its place and its name. */
const printOf = (d: SceneDocument, n: SceneNode): string =>
  JSON.stringify([
    n.parts?.map((p) => [d.meshes[p.mesh]!.blob, materialLabelOf(d.materials[p.material]!)]),
    n.light === undefined ? 0 : d.lights[n.light],
    n.camera === undefined ? 0 : d.cameras[n.camera],
  ]);
const materialPrint = (d: SceneDocument, { name: _, label: _l, textures, ...rest }: SceneMaterial): string =>
  JSON.stringify([
    rest,
    Object.entries(textures)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([slot, t]) => [slot, { ...t, texture: d.textures[t.texture]!.blob }]),
  ]);
const differs = (a: Matrix, b: Matrix): boolean => a.some((x, i) => Math.abs(x - b[i]!) > 1e-5 * (1 + Math.abs(x)));

/**
 * Matches what a new file holds with what is known: by hand first, then by path, then by name below a matched parent,
 * then by a name that only one thing on each side has. A hand match of something that is not there, or given twice, is
 * passed over.
 */
export function matchScenes(
  known: readonly SceneDocument[],
  after: SceneDocument,
  byHand: readonly HandMatch[] = [],
): SceneMatch {
  const nodes = matchNodes(
    known,
    after,
    byHand.filter((h) => !h.material),
  );
  const materials = matchMaterials(
    known,
    after,
    byHand.filter((h) => h.material),
  );
  return {
    matches: [...nodes.matches, ...materials.matches],
    gone: [...nodes.gone, ...materials.gone],
    added: [...nodes.added, ...materials.added],
  };
}

function matchNodes(
  documents: readonly SceneDocument[],
  after: SceneDocument,
  byHand: readonly HandMatch[],
): SceneMatch {
  const known = knownNodes(documents);
  const byLabel = new Map<string, Known>();
  const world = worldMatrices(after.nodes);
  const place = new Map(after.nodes.map((n, i) => [filePathOf(n), i]));
  for (const k of known.values())
    if (!byLabel.has(k.label) || (k.present && !byLabel.get(k.label)!.present)) byLabel.set(k.label, k);
  const matched = new Map<number, { known: Known; how: ThingMatch['how'] }>();
  const used = new Set<string>();
  const take = (i: number, k: Known, how: ThingMatch['how']) => {
    if (matched.has(i) || used.has(k.id)) return;
    matched.set(i, { known: k, how });
    used.add(k.id);
  };
  for (const h of byHand) {
    const i = place.get(h.to);
    const k = known.get(h.from);
    if (i !== undefined && k) take(i, k, 'hand');
  }
  after.nodes.forEach((n, i) => {
    const k = byLabel.get(filePathOf(n));
    if (k) take(i, k, 'path');
  });
  // a unique name, then what lies below a matched parent under its name; again until neither finds more, since either
  // may open the way for the other
  for (let before = -1; before !== matched.size;) {
    before = matched.size;
    const below = new Map<string, Known[]>();
    for (const k of known.values())
      if (k.present && !used.has(k.id)) push(below, `${k.parent ?? ''}\u0000${k.kind}\u0000${k.name}`, k);
    after.nodes.forEach((n, i) => {
      if (matched.has(i) || n.parent < 0) return;
      const parent = matched.get(n.parent)?.known.id;
      const found = parent === undefined ? undefined : below.get(`${parent}\u0000${kindOf(n)}\u0000${n.name}`);
      if (found?.length === 1) take(i, found[0]!, 'parent');
    });
    const old = new Map<string, Known[]>();
    const fresh = new Map<string, number[]>();
    for (const k of known.values()) if (k.present && !used.has(k.id)) push(old, `${k.kind}\u0000${k.name}`, k);
    after.nodes.forEach((n, i) => {
      if (!matched.has(i)) push(fresh, `${kindOf(n)}\u0000${n.name}`, i);
    });
    for (const [key, list] of fresh) {
      const one = old.get(key);
      if (list.length === 1 && one?.length === 1) take(list[0]!, one[0]!, 'name');
    }
  }
  return {
    matches: after.nodes.flatMap((n, i): ThingMatch[] => {
      const m = matched.get(i);
      return m
        ? [
            {
              kind: kindOf(n),
              from: m.known.id,
              to: filePathOf(n),
              how: m.how,
              moved: differs(m.known.matrix, world[i]!),
              changed: m.known.print !== printOf(after, n),
            },
          ]
        : [];
    }),
    gone: [...known.values()]
      .filter((k) => k.present && !used.has(k.id))
      .map(({ kind, id, label }) => ({ kind, id, label })),
    added: after.nodes.flatMap((n, i): Thing[] =>
      matched.has(i) ? [] : [{ kind: kindOf(n), id: filePathOf(n), label: filePathOf(n) }],
    ),
  };
}

function matchMaterials(
  documents: readonly SceneDocument[],
  after: SceneDocument,
  byHand: readonly HandMatch[],
): SceneMatch {
  const known = new Map<string, { label: string; present: boolean; print: string }>();
  const byLabel = new Map<string, string>();
  const matched = new Map<string, { from: string; how: 'path' | 'hand' }>();
  const used = new Set<string>();
  documents.forEach((d, age) => {
    for (const m of d.materials)
      if (!known.has(m.name)) {
        known.set(m.name, { label: materialLabelOf(m), present: age === 0, print: materialPrint(d, m) });
        if (!byLabel.has(materialLabelOf(m))) byLabel.set(materialLabelOf(m), m.name);
      }
  });
  const take = (to: string, from: string, how: 'path' | 'hand') => {
    if (matched.has(to) || used.has(from)) return;
    matched.set(to, { from, how });
    used.add(from);
  };
  const there = new Set(after.materials.map(materialLabelOf));
  for (const h of byHand) if (known.has(h.from) && there.has(h.to)) take(h.to, h.from, 'hand');
  for (const label of there) {
    const from = byLabel.get(label);
    if (from !== undefined) take(label, from, 'path');
  }
  return {
    matches: after.materials.flatMap((m): ThingMatch[] => {
      const x = matched.get(materialLabelOf(m));
      return x
        ? [
            {
              kind: 'material',
              from: x.from,
              to: materialLabelOf(m),
              how: x.how,
              moved: false,
              changed: known.get(x.from)!.print !== materialPrint(after, m),
            },
          ]
        : [];
    }),
    gone: [...known]
      .filter(([id, k]) => k.present && !used.has(id))
      .map(([id, k]) => ({ kind: 'material', id, label: k.label })),
    added: after.materials.flatMap((m): Thing[] =>
      matched.has(materialLabelOf(m)) ? [] : [{ kind: 'material', id: materialLabelOf(m), label: materialLabelOf(m) }],
    ),
  };
}

/**
 * The new document under the identities that a match gave; what is new keeps its own name, told apart where a known
 * thing has it.
 */
export function reviseDocument(
  known: readonly SceneDocument[],
  after: SceneDocument,
  match: SceneMatch,
): SceneDocument {
  const nodeIds = new Map(match.matches.filter((m) => m.kind !== 'material').map((m) => [m.to, m.from]));
  const materialIds = new Map(match.matches.filter((m) => m.kind === 'material').map((m) => [m.to, m.from]));
  const paths = uniqueOver([...known.flatMap((d) => d.nodes.map((n) => n.path))]);
  const names = uniqueOver([...known.flatMap((d) => d.materials.map((m) => m.name))]);
  const nodes = after.nodes.map(({ filePath, ...n }): SceneNode => {
    const label = filePath ?? n.path;
    const path = nodeIds.get(label) ?? paths(label);
    return { ...n, path, ...(path !== label && { filePath: label }) };
  });
  const materials = after.materials.map(({ label: given, ...m }): SceneMaterial => {
    const label = given ?? m.name;
    const name = materialIds.get(label) ?? names(label);
    return { ...m, name, ...(name !== label && { label }) };
  });
  const pathOf = new Map(nodes.map((n) => [filePathOf(n), n.path]));
  const nameOf = new Map(materials.map((m) => [materialLabelOf(m), m.name]));
  const { variants } = after;
  return {
    ...after,
    nodes,
    materials,
    ...(variants && {
      variants: variants.map((v) => ({
        ...v,
        wears: Object.fromEntries(
          Object.entries(v.wears).map(([path, name]) => [pathOf.get(path) ?? path, nameOf.get(name) ?? name]),
        ),
      })),
    }),
  };
}
function uniqueOver(taken: readonly string[]): (wish: string) => string {
  const all = new Set(taken);
  return (wish) => {
    let name = wish;
    for (let k = 2; all.has(name); k++) name = `${wish} (${k})`;
    all.add(name);
    return name;
  };
}
function push<K, V>(map: Map<K, V[]>, key: K, value: V): void {
  const list = map.get(key);
  if (list) list.push(value);
  else map.set(key, [value]);
}
