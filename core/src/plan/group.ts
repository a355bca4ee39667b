// Fewer traces than cells: cells whose state is the same but for the grade are served by one trace.
export interface Cell {
  readonly cameraId: string;
  readonly variantId: string;
}
export interface TraceGroup<C extends Cell> {
  readonly hash: string;
  readonly cells: readonly C[];
}

/** Groups in the order in which their first cell stands; cells in their given order. */
export function groupCells<C extends Cell & { readonly traceHash: string }>(cells: readonly C[]): TraceGroup<C>[] {
  const groups = new Map<string, C[]>();
  for (const c of cells) groups.set(c.traceHash, [...(groups.get(c.traceHash) ?? []), c]);
  return [...groups].map(([hash, members]) => ({ hash, cells: members }));
}
