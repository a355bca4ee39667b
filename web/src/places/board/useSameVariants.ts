// Variants that show every camera the same as one before them.
import type { BoardCell, Project } from '@variscen/contract';
import { useMemo } from 'react';
import { cellKey } from '../../model/selectedCells.ts';

/** Names of those before, by the id of the later variant. */
export function useSameVariants(
  { cameras, variants }: Project,
  cells: ReadonlyMap<string, BoardCell>,
): ReadonlyMap<string, readonly string[]> {
  return useMemo(() => {
    const seen = new Map<string, string[]>();
    const out = new Map<string, readonly string[]>();
    for (const v of variants) {
      const all = cameras.map((c) => cells.get(cellKey(c.id, v.id))?.hash);
      if (!all.length || all.some((h) => !h)) continue;
      const key = all.join();
      const before = seen.get(key) ?? [];
      if (before.length) out.set(v.id, [...before]);
      seen.set(key, [...before, v.name]);
    }
    return out;
  }, [variants, cameras, cells]);
}
