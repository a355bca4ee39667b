// Which objects are let go for a share of the picture's light, and which pieces of others' meshes: those that give
// least.

export interface LetGoCandidate {
  readonly path: string;
  /** Of the picture's light it may change so much; 0: no ray met it. */
  readonly costShare: number;
  /** What is not loaded without it. */
  readonly bytes: number;
}
export interface LetGoPiece {
  /** Hash of its mesh, and its number there. */
  readonly mesh: string;
  readonly piece: number;
  readonly costShare: number;
  readonly bytes: number;
  /** The object whose cost has that of the piece in it: the only one that shows its mesh; null: several do. */
  readonly owner: string | null;
}
export interface LetGo {
  /** Paths of objects, the first to go first. */
  readonly objects: readonly string[];
  /** Of meshes of other objects. */
  readonly pieces: readonly LetGoPiece[];
}

/**
 * What is let go: the least cost first, at equal cost the most memory, until all together would cost more than the bar.
 * A higher bar lets go of all that a lower one does. What was never met goes at any bar. By cost alone, not for the
 * memory: what is large and gives a little would stand before all that is small and gives less.
 * @param barShare of the picture's light, 0…1
 */
export function letGo(objects: readonly LetGoCandidate[], barShare: number, pieces: readonly LetGoPiece[] = []): LetGo {
  const order = [...objects.map(asObject), ...pieces.map(asPiece)].sort(
    (a, b) => a.costShare - b.costShare || b.bytes - a.bytes || (a.name < b.name ? -1 : 1),
  );
  const gone = new Set<string>();
  const goneOf = new Map<string, number>(); // cost of an object's pieces that are gone already
  const goes: LetGoPiece[] = [];
  let spent = 0;
  for (const { costShare, path, piece } of order) {
    spent += path === null ? costShare : Math.max(0, costShare - (goneOf.get(path) ?? 0));
    if (spent > barShare) break;
    if (path !== null) gone.add(path);
    if (piece === null) continue;
    goes.push(piece);
    if (piece.owner !== null) goneOf.set(piece.owner, (goneOf.get(piece.owner) ?? 0) + costShare);
  }
  return { objects: [...gone], pieces: goes.filter(({ owner }) => owner === null || !gone.has(owner)) };
}

interface Ordered {
  readonly costShare: number;
  readonly bytes: number;
  readonly name: string;
  readonly path: string | null;
  readonly piece: LetGoPiece | null;
}
const asObject = ({ path, costShare, bytes }: LetGoCandidate): Ordered => ({
  costShare,
  bytes,
  name: path,
  path,
  piece: null,
});
const asPiece = (piece: LetGoPiece): Ordered => ({
  costShare: piece.costShare,
  bytes: piece.bytes,
  name: `${piece.mesh} ${piece.piece}`,
  path: null,
  piece,
});
