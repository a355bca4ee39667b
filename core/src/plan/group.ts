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

/** A trace of several lightings of one scene: groups of cells that differ in light alone. */
export interface SharedGroup<C extends Cell> {
  readonly hash: string;
  readonly lightings: readonly TraceGroup<C>[];
}
/**
 * Groups that one trace serves put together, where the first of them stands.
 * @param shared hashes of groups, set by set; a group is in one set at most
 */
export function shareTraces<C extends Cell>(
  groups: readonly TraceGroup<C>[],
  shared: readonly (readonly string[])[],
): SharedGroup<C>[] {
  const byHash = new Map(groups.map((g) => [g.hash, g]));
  const setOf = new Map(shared.flatMap((set) => set.map((hash) => [hash, set] as const)));
  return groups.flatMap((g) => {
    const set = setOf.get(g.hash) ?? [g.hash];
    return set[0] === g.hash ? [{ hash: g.hash, lightings: set.map((hash) => byHash.get(hash)!) }] : [];
  });
}

/** Which lighting of its trace a cell shows; absent: the only one. */
interface Lit {
  readonly lighting?: number | undefined;
}
/** Whether a cell is the first of its trace in its lighting: it has the files that those in one lighting share. */
export const isFirstInLight = (cells: readonly Lit[], cell: number): boolean =>
  cells.findIndex((c) => (c.lighting ?? 0) === (cells[cell]!.lighting ?? 0)) === cell;
