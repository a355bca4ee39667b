// Which objects are let go for a share of the picture's light: those that give least.

export interface LetGoCandidate {
  readonly path: string;
  /** Of the picture's light it may change so much; 0: no ray met it. */
  readonly costShare: number;
  /** What is not loaded without it. */
  readonly bytes: number;
}

/**
 * Paths of what is let go, the first to go first: the least cost first, at equal cost the most memory, until all
 * together would cost more than the bar. A higher bar lets go of all that a lower one does. What was never met goes at
 * any bar. By cost alone, not for the memory: what is large and gives a little would stand before all that is small and
 * gives less.
 * @param barShare of the picture's light, 0…1
 */
export function letGo(candidates: readonly LetGoCandidate[], barShare: number): string[] {
  const order = [...candidates].sort(
    (a, b) => a.costShare - b.costShare || b.bytes - a.bytes || (a.path < b.path ? -1 : 1),
  );
  const out: string[] = [];
  let spent = 0;
  for (const c of order) {
    spent += c.costShare;
    if (spent > barShare) break;
    out.push(c.path);
  }
  return out;
}
