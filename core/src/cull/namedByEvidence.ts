// From what was measured to what is named: the plan of a camera.
import type { SceneDocument } from '../scene/index.ts';
import type { CullPlan } from './cullPlan.ts';
import { type StandIn, mayStandIn } from './standIns.ts';
import { type CullEvidence, costShare } from './evidence.ts';
import { NO_PIECES, keptPieces, piecesToLetGo } from './leftOutPieces.ts';
import { type LetGoCandidate, letGo } from './letGo.ts';
import { objectBytes } from './objectBytes.ts';

/** What people have decided for a camera. */
export interface CullAsked {
  readonly barShare: number | null;
  readonly keep: readonly string[];
  readonly leaveOut: readonly string[];
  /** What the camera does not see itself is simplified. */
  readonly simplifies: boolean;
}

/**
 * What may be let go: whatever was shown and gives no light. What is pinned or left out by hand is decided; what comes
 * into the frame unmeasured stays.
 */
export function candidatesOf(e: CullEvidence, document: SceneDocument, decided: ReadonlySet<string>): LetGoCandidate[] {
  const bytes = objectBytes(document);
  const entering = new Set(e.entering);
  const isOpen = (path: string) => !decided.has(path) && !entering.has(path);
  const met = e.objects.filter((o) => o.lit === 0 && o.times.lit === 0 && isOpen(o.path));
  const unmet = e.unmet.filter(isOpen);
  return [
    ...met.map((o) => ({ path: o.path, costShare: costShare(o), bytes: bytes.get(o.path) ?? 0 })),
    ...unmet.map((path) => ({ path, costShare: 0, bytes: bytes.get(path) ?? 0 })),
  ];
}

/**
 * @param evidence of the camera in all variants that are meant, put together; null: nothing was measured
 * @param from their names
 * @param standIns of the meshes that standInsFor() names, those that are worth it
 */
export function planFor(
  asked: CullAsked,
  evidence: CullEvidence | null,
  document: SceneDocument,
  from: readonly string[],
  standIns: Readonly<Record<string, StandIn>> = {},
): CullPlan {
  const { barShare, keep, simplifies } = asked;
  const { byHand, byEvidence, pieces } = leftOutFor(asked, evidence, document);
  const nits: Record<string, number> = {};
  if (evidence) {
    const known = new Map(evidence.objects.map((o) => [o.path, o.nits]));
    // what was met seldom may be as bright as anything
    for (const path of [...byHand, ...byEvidence]) nits[path] = Math.max(evidence.meanNits, known.get(path) ?? 0);
  }
  return { barShare, keep: [...keep], leaveOut: byHand, byEvidence, nits, from, simplifies, standIns, pieces };
}

/** What goes by hand, and by evidence as it is asked: objects, and pieces of the meshes of others. */
export function leftOutFor(asked: CullAsked, evidence: CullEvidence | null, document: SceneDocument) {
  const { barShare, keep, leaveOut, simplifies } = asked;
  const kept = new Set(keep);
  const byHand = leaveOut.filter((path) => !kept.has(path));
  if (barShare === null || !evidence) return { byHand, byEvidence: [], pieces: NO_PIECES };
  const objects = candidatesOf(evidence, document, new Set([...keep, ...leaveOut]));
  const gone = letGo(objects, barShare, piecesToLetGo(evidence, document, kept, simplifies));
  return { byHand, byEvidence: gone.objects, pieces: keptPieces(evidence, gone.pieces) };
}

/** Hashes of meshes that may be simplified for what is asked, with how far off they may be. */
export function standInsFor(asked: CullAsked, evidence: CullEvidence, document: SceneDocument): Map<string, number> {
  if (!asked.simplifies) return new Map();
  const { byHand, byEvidence, pieces } = leftOutFor(asked, evidence, document);
  const leftOut = new Set([...byHand, ...byEvidence]);
  const exponents = mayStandIn(evidence, document, { leftOut, keep: new Set(asked.keep) });
  // what stands in is another mesh, with pieces of its own
  return new Map([...exponents].filter(([mesh]) => !pieces.meshes[mesh]));
}
