// The rows of the tree: what is expanded, or what a search and filters find. Pure.
import type { SceneDocument } from '@variscen/core/scene';

export interface TreeRow {
  readonly node: number;
  readonly depth: number;
  readonly children: number;
  readonly open: boolean;
}
export interface Hierarchy {
  readonly children: readonly (readonly number[])[];
  readonly roots: readonly number[];
  readonly below: Int32Array;
  /** Paths and names in lower case, for the search. */
  readonly paths: readonly string[];
  readonly names: readonly string[];
}
export const KINDS = ['object', 'group', 'light', 'camera'] as const;
export type Kind = (typeof KINDS)[number];

/** What is shown of the scene; empty lists and false let everything through. */
export interface TreeFilter {
  readonly find: string;
  readonly kinds: readonly Kind[];
  readonly layers: readonly string[];
  readonly materials: readonly string[];
  /** Only nodes for which it holds: hidden, off frame, changed. */
  readonly only?: ((node: number) => boolean) | undefined;
}
export const EVERYTHING: TreeFilter = { find: '', kinds: [], layers: [], materials: [] };

/** Children by node, and how many objects and lights lie below each. */
export function hierarchyOf(d: SceneDocument): Hierarchy {
  const children: number[][] = d.nodes.map(() => []);
  const roots: number[] = [];
  const below = new Int32Array(d.nodes.length);
  d.nodes.forEach((n, i) => (n.parent < 0 ? roots : children[n.parent]!).push(i));
  for (let i = d.nodes.length - 1; i >= 0; i--) {
    const n = d.nodes[i]!;
    if (n.parent >= 0) below[n.parent]! += below[i]! + (n.parts || n.light !== undefined ? 1 : 0);
  }
  return {
    children,
    roots,
    below,
    paths: d.nodes.map((n) => (n.filePath ?? n.path).toLowerCase()),
    names: d.nodes.map((n) => n.name.toLowerCase()),
  };
}
export const kindsOf = (d: SceneDocument, i: number): Kind[] => {
  const n = d.nodes[i]!;
  const out: Kind[] = [];
  if (n.parts) out.push('object');
  if (n.light !== undefined) out.push('light');
  if (n.camera !== undefined) out.push('camera');
  return out.length ? out : ['group'];
};
/** The layer of a node is its own or that of the nearest group that has one. */
export function layersOf(d: SceneDocument): (string | undefined)[] {
  const out: (string | undefined)[] = [];
  for (const n of d.nodes) out.push(n.layer ?? (n.parent < 0 ? undefined : out[n.parent]));
  return out;
}

export function treeRows(
  d: SceneDocument,
  h: Hierarchy,
  open: ReadonlySet<number>,
  f: TreeFilter,
  layers: readonly (string | undefined)[] = [],
): TreeRow[] {
  const words = f.find.toLowerCase().split(/\s+/).filter(Boolean);
  const out: TreeRow[] = [];
  const last = words.at(-1);
  if (words.length || f.kinds.length || f.layers.length || f.materials.length || f.only) {
    for (let node = 0; node < d.nodes.length; node++) {
      if (last !== undefined && !(h.names[node]!.includes(last) && words.every((w) => h.paths[node]!.includes(w))))
        continue;
      if (f.kinds.length && !kindsOf(d, node).some((k) => f.kinds.includes(k))) continue;
      if (f.layers.length && !f.layers.includes(layers[node] ?? '')) continue;
      if (f.materials.length && !d.nodes[node]!.parts?.some((p) => f.materials.includes(d.materials[p.material]!.name)))
        continue;
      if (f.only && !f.only(node)) continue;
      out.push({ node, depth: 0, children: h.children[node]!.length, open: false });
    }
    return out;
  }
  const pending = h.roots.map((node) => ({ node, depth: 0 })).reverse();
  while (pending.length) {
    const { node, depth } = pending.pop()!;
    const kids = h.children[node]!;
    out.push({ node, depth, children: kids.length, open: open.has(node) });
    if (open.has(node)) for (let i = kids.length - 1; i >= 0; i--) pending.push({ node: kids[i]!, depth: depth + 1 });
  }
  return out;
}
