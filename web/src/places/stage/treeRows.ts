// The rows of the tree: what is expanded, or what a search finds. Pure.
import type { SceneDocument } from '@variscen/core/scene';

export interface TreeRow { readonly node: number; readonly depth: number; readonly children: number; readonly open: boolean }
export interface Hierarchy { readonly children: readonly (readonly number[])[]; readonly roots: readonly number[]; readonly below: Int32Array }

/** Children by node, and how many objects and lights lie below each. */
export function hierarchyOf(d: SceneDocument): Hierarchy {
  const children: number[][] = d.nodes.map(() => []), roots: number[] = [], below = new Int32Array(d.nodes.length);
  d.nodes.forEach((n, i) => (n.parent < 0 ? roots : children[n.parent]!).push(i));
  for (let i = d.nodes.length - 1; i >= 0; i--) { const n = d.nodes[i]!; if (n.parent >= 0) below[n.parent]! += below[i]! + (n.parts || n.light !== undefined ? 1 : 0); }
  return { children, roots, below };
}

export function treeRows(d: SceneDocument, h: Hierarchy, open: ReadonlySet<number>, find: string): TreeRow[] {
  const words = find.toLowerCase().split(/\s+/).filter(Boolean), out: TreeRow[] = [];
  if (words.length) {
    d.nodes.forEach((n, node) => { const path = n.path.toLowerCase(); if (words.every((w) => path.includes(w)) && n.name.toLowerCase().includes(words.at(-1)!)) out.push({ node, depth: 0, children: h.children[node]!.length, open: false }); });
    return out;
  }
  const pending = h.roots.map((node) => ({ node, depth: 0 })).reverse();
  while (pending.length) {
    const { node, depth } = pending.pop()!, kids = h.children[node]!;
    out.push({ node, depth, children: kids.length, open: open.has(node) });
    if (open.has(node)) for (let i = kids.length - 1; i >= 0; i--) pending.push({ node: kids[i]!, depth: depth + 1 });
  }
  return out;
}
