// Which objects are let go for a share of the picture's light: those that give least for the memory that they take.

export interface LetGoCandidate {
  readonly path: string;
  /** Of the picture's light it may change so much; 0: no ray met it. */
  readonly costShare: number;
  /** What is not loaded without it. */
  readonly bytes: number;
}

/**
 * Paths of what is let go, the first to go first: least cost for its bytes, until all together would cost more than the
 * bar. A higher bar lets go of all that a lower one does. What was never met costs nothing and goes at any bar.
 * @param barShare of the picture's light, 0…1
 */
export function letGo(candidates: readonly LetGoCandidate[], barShare: number): string[] {
  const worth = (c: LetGoCandidate) => (c.costShare === 0 ? -1 : c.costShare / Math.max(1, c.bytes));
  const order = [...candidates].sort((a, b) => worth(a) - worth(b) || b.bytes - a.bytes || (a.path < b.path ? -1 : 1));
  const out: string[] = [];
  let spent = 0;
  for (const c of order) {
    spent += c.costShare;
    if (spent > barShare) break;
    out.push(c.path);
  }
  return out;
}
