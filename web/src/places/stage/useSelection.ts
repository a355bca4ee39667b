// What is selected: many objects at once stay on the page, the last of them is in the address. Cameras are selected
// apart from them.
import type { SceneIndex } from '@variscen/core/looks';
import { useCallback, useEffect, useMemo, useState } from 'react';
import { nodeOf, targetOf } from '../../model/selection.ts';
import { useAddress } from '../../ui/address.ts';

export interface Selection {
  /** Objects, lights and groups of the scene. */
  readonly nodes: readonly number[];
  /** What the address says: one of them, or something that is no node (a material, the environment, a copy). */
  readonly selected: string | null;
  readonly targets: readonly string[];
  readonly cameraIds: readonly string[];
  selectNodes(nodes: readonly number[]): void;
  select(target: string | null): void;
  selectCameras(ids: readonly string[]): void;
  /** Adds a node to the selection, or takes it away. */
  toggled(node: number): readonly number[];
  /** Nothing but cameras is selected any more. */
  deselectObjects(): void;
}

export function useSelection(index: SceneIndex | undefined): Selection {
  const [search, put] = useAddress();
  const selected = search.get('selected');
  const [nodes, setNodes] = useState<readonly number[]>([]);
  const [of, setOf] = useState(index);
  if (of !== index) {
    // lights come and go after the scene's own parts: what is selected stays selected, whatever its number is now
    setOf(index);
    if (of?.own === index?.own && of && index) setNodes((old) => renumbered(old, of, index));
  }
  const [cameraIds, selectCameras] = useState<readonly string[]>([]);
  const addressed = index ? nodeOf(index, selected) : undefined;
  useEffect(() => {
    setNodes((old) => {
      if (addressed === undefined) return old.length ? [] : old;
      return old.includes(addressed) ? old : [addressed];
    });
  }, [addressed, index]);
  const selectNodes = useCallback(
    (next: readonly number[]) => {
      setNodes(next);
      selectCameras([]);
      const last = next.at(-1);
      put({ selected: last === undefined || !index ? null : targetOf(index.document, last) });
    },
    [put, index],
  );
  const select = useCallback(
    (target: string | null) => {
      setNodes([]);
      selectCameras([]);
      put({ selected: target });
    },
    [put],
  );
  const targets = useMemo(() => {
    if (!index) return [];
    if (nodes.length) return nodes.map((n) => targetOf(index.document, n));
    return selected ? [selected] : [];
  }, [index, nodes, selected]);
  const toggled = (node: number) => (nodes.includes(node) ? nodes.filter((n) => n !== node) : [...nodes, node]);
  const deselectObjects = useCallback(() => {
    setNodes([]);
    put({ selected: null });
  }, [put]);
  return { nodes, selected, targets, cameraIds, selectNodes, select, selectCameras, toggled, deselectObjects };
}

function renumbered(nodes: readonly number[], from: SceneIndex, to: SceneIndex): readonly number[] {
  const now = nodes.flatMap((n) => to.nodes.get(from.document.nodes[n]?.path ?? '') ?? []);
  return now.length === nodes.length && now.every((n, i) => n === nodes[i]) ? nodes : now;
}
