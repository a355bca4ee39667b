// Which parts of the scene are selected, and the ways to select more. Nodes by index; pure.
import { type ResolvedState, type SceneIndex, lightTarget, objectTarget, parseTarget } from '@variscen/core/looks';
import type { SceneDocument } from '@variscen/core/scene';
import type { Hierarchy } from './treeRows.ts';

/** How looks call a node: as a light where it is nothing else. */
export const targetOf = (d: SceneDocument, node: number): string => {
  const n = d.nodes[node]!;
  return n.light !== undefined && !n.parts ? lightTarget(n.path) : objectTarget(n.path);
};
export function nodeOf(index: SceneIndex, target: string | null): number | undefined {
  const t = target === null ? undefined : parseTarget(target);
  return t && (t.kind === 'object' || t.kind === 'light') ? index.nodes.get(t.name) : undefined;
}
const isThing = (d: SceneDocument, i: number): boolean => {
  const n = d.nodes[i]!;
  return n.parts !== undefined || n.light !== undefined;
};

/** The nodes and everything in them, in scene order. */
export function withChildren(h: Hierarchy, nodes: readonly number[]): number[] {
  const out = new Set<number>();
  const pending = [...nodes];
  while (pending.length) {
    const n = pending.pop()!;
    if (!out.has(n)) {
      out.add(n);
      pending.push(...h.children[n]!);
    }
  }
  return [...out].sort((a, b) => a - b);
}
/** Every object and light that is neither selected nor in something selected. */
export function inverse(d: SceneDocument, h: Hierarchy, nodes: readonly number[]): number[] {
  const inside = new Set(withChildren(h, nodes));
  return d.nodes.flatMap((_, i) => (isThing(d, i) && !inside.has(i) ? [i] : []));
}
/** The materials that a node wears in a look. */
export function materialsWorn(d: SceneDocument, state: ResolvedState, node: number): string[] {
  const n = d.nodes[node]!;
  const worn = n.parts?.length === 1 ? state.get(objectTarget(n.path), 'object.material') : undefined;
  return typeof worn === 'string' && state.scene.material(worn)
    ? [worn]
    : [...new Set((n.parts ?? []).map((p) => d.materials[p.material]!.name))];
}
/** Every object that wears one of the materials of the selected ones, or of what is in them. */
export function sameMaterial(d: SceneDocument, h: Hierarchy, state: ResolvedState, nodes: readonly number[]): number[] {
  const wanted = new Set(withChildren(h, nodes).flatMap((n) => materialsWorn(d, state, n)));
  return d.nodes.flatMap((n, i) => (n.parts && materialsWorn(d, state, i).some((m) => wanted.has(m)) ? [i] : []));
}
/** A click: alone; with `more` in or out; with `through` all rows from the last clicked one to this. */
export function clicked(
  rows: readonly number[],
  selected: readonly number[],
  last: number | undefined,
  node: number,
  how: 'alone' | 'more' | 'through',
): number[] {
  if (how === 'more') return selected.includes(node) ? selected.filter((n) => n !== node) : [...selected, node];
  const a = last === undefined ? -1 : rows.indexOf(last);
  const b = rows.indexOf(node);
  if (how === 'through' && a >= 0 && b >= 0)
    return [...new Set([...selected, ...rows.slice(Math.min(a, b), Math.max(a, b) + 1)])];
  return [node];
}
