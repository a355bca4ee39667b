// What people and evidence have named for a camera, as it is kept: found again by the hash of its bytes. A camera
// refers to the plan, and to the hash of what it leaves out, by which pictures are told apart.

import { type LeftOutOfMesh, type LeftOutPieces, NO_PIECES, leftOutPiecesText } from './leftOutPieces.ts';
import type { StandIn } from './standIns.ts';

export interface CullPlan {
  /** So much of the picture's light may go with what evidence names; null: evidence names nothing. */
  readonly barShare: number | null;
  /** Paths of objects: pinned, and left out by hand. */
  readonly keep: readonly string[];
  readonly leaveOut: readonly string[];
  /** Those that evidence has named. */
  readonly byEvidence: readonly string[];
  /** Whether what the camera does not see itself is simplified; which meshes are, by their hash. */
  readonly simplifies: boolean;
  readonly standIns: Readonly<Record<string, StandIn>>;
  /** Pieces of meshes of what stays, named by evidence. */
  readonly pieces: LeftOutPieces;
  /** How bright objects are that may be left out, nits, where evidence tells. */
  readonly nits: Readonly<Record<string, number>>;
  /** Names of the variants whose evidence it was made from. */
  readonly from: readonly string[];
}

/** As the rules ask for it. */
export interface NamedObjects {
  readonly keep: ReadonlySet<string>;
  readonly byHand: ReadonlySet<string>;
  readonly byEvidence: ReadonlySet<string>;
  readonly nits: ReadonlyMap<string, number>;
  /** By hash of the mesh that they stand in for. */
  readonly standIns: ReadonlyMap<string, StandIn>;
  /** Of the meshes of what stays. */
  readonly pieces: ReadonlyMap<string, LeftOutOfMesh>;
}

/**
 * @param engine build of the engine that is asked: pieces as another has divided the meshes are not left out; undefined:
 * it loads meshes whole
 */
export const namedBy = (plan: CullPlan, engine: string | undefined): NamedObjects => ({
  keep: new Set(plan.keep),
  byHand: new Set(plan.leaveOut),
  byEvidence: new Set(plan.byEvidence),
  nits: new Map(Object.entries(plan.nits)),
  standIns: new Map(Object.entries(plan.standIns)),
  pieces: new Map(plan.pieces.engine === engine ? Object.entries(plan.pieces.meshes) : []),
});

/**
 * Paths of what a plan leaves out, in an order that nothing else decides, then of which meshes pieces; the picture
 * depends on no more of it.
 */
export const leftOutBy = ({ keep, leaveOut, byEvidence, pieces }: CullPlan): string[] => {
  const kept = new Set(keep);
  const paths = [...new Set([...leaveOut, ...byEvidence])].filter((path) => !kept.has(path)).sort();
  return [...paths, ...leftOutPiecesText(pieces)];
};

export const packCullPlan = (plan: CullPlan): Uint8Array => new TextEncoder().encode(JSON.stringify(plan));
/** @param bytes of packCullPlan() */
export function unpackCullPlan(bytes: Uint8Array): CullPlan {
  const kept = JSON.parse(new TextDecoder().decode(bytes)) as CullPlan;
  return { ...WITHOUT, ...kept };
}
/** Plans kept before there were stand-ins say nothing of them, and of pieces neither. */
const WITHOUT = { simplifies: false, standIns: {}, pieces: NO_PIECES } satisfies Partial<CullPlan>;
