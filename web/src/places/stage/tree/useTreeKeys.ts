// Selecting in the tree, by hand and from the keyboard.
import { type KeyboardEvent, type MouseEvent, useRef } from 'react';
import type { SceneDocument } from '@variscen/core/scene';
import { clicked } from '../../../model/selection.ts';
import type { TreeRow } from '../../../model/treeRows.ts';

interface Parts {
  readonly document: SceneDocument | undefined;
  readonly rows: readonly TreeRow[];
  readonly nodes: readonly number[];
  /** The row of the node that was selected last; -1: it is not among the rows. */
  readonly place: number;
  readonly onNodes: (nodes: readonly number[]) => void;
  readonly onToggle: (node: number) => void;
  readonly onIntoView: () => void;
}

export function useTreeKeys({ document, rows, nodes, place, onNodes, onToggle, onIntoView }: Parts) {
  /** Where a range begins. */
  const anchor = useRef<number>(undefined);
  const pick = (n: number, how: 'alone' | 'more' | 'through') => {
    const all = rows.map((r) => r.node);
    const next = clicked(all, nodes, anchor.current ?? nodes.at(-1), n, how);
    if (how !== 'through') anchor.current = n;
    onNodes(how === 'through' ? [...next.filter((x) => x !== n), n] : next);
  };
  const onClick = (e: MouseEvent, n: number) => {
    const one = e.ctrlKey || e.metaKey ? 'more' : 'alone';
    pick(n, e.shiftKey ? 'through' : one);
  };
  const step = (by: number, extend: boolean) => {
    const next = rows[Math.min(rows.length - 1, Math.max(0, place + by))];
    if (!next) return;
    if (extend) onNodes([...nodes.filter((n) => n !== next.node), next.node]);
    else pick(next.node, 'alone');
  };
  const fold = (row: TreeRow) => {
    const { parent } = document!.nodes[row.node]!;
    if (row.open) onToggle(row.node);
    else if (parent >= 0) pick(parent, 'alone');
  };
  const onKey = (e: KeyboardEvent) => {
    const row = rows[place];
    const isCommand = e.ctrlKey || e.metaKey;
    if (e.key === 'ArrowDown') step(1, e.shiftKey);
    else if (e.key === 'ArrowUp') step(-1, e.shiftKey);
    else if (e.key === 'Home') step(-rows.length, false);
    else if (e.key === 'End') step(rows.length, false);
    else if (row && e.key === 'ArrowRight' && row.children && !row.open) onToggle(row.node);
    else if (row && e.key === 'ArrowLeft') fold(row);
    else if (e.key === 'Enter' && !isCommand && nodes.length) onIntoView();
    else if (e.key === 'a' && isCommand) onNodes(rows.map((r) => r.node));
    else return;
    e.preventDefault();
  };
  return { onClick, onKey };
}
