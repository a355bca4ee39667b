// What rays of a picture may have met: which objects, and which pieces of their meshes, how, and what came of it.
import {
  MEETINGS,
  type Meeting,
  type PieceMet,
  type PiecesEvidence,
  joinedPieces,
  pieceEvidence,
  waysOf,
} from '@variscen/core/cull';
import { type Engine, type MetPiece, type PieceEvidence, type Selection, madeMesh } from '@variscen/engine';
import { engineBuild } from '@variscen/engine/node';
import { rounded } from './digits.ts';

export interface Reached {
  /** Their paths. */
  readonly objects: ReadonlySet<string>;
  /** undefined where there are no meshes. */
  readonly pieces: PiecesEvidence | undefined;
}
/** What the picture was measured by. */
export interface MeasuredBy {
  /** All its light, nits, of all its paths together. */
  readonly light: number;
  /** A piece that was met costs no less. */
  readonly leastCost: number;
}

/** @param engine with what was selected loaded, evidence asked for, and rendered */
export async function reachedIn(
  engine: Engine,
  { instances, meshes, materials, pose }: Selection,
  by: MeasuredBy,
): Promise<Reached> {
  const isReached = engine.reached();
  const objects = new Set(instances.flatMap((o, i) => (isReached[i] ? [o.object ?? o.name] : [])));
  const glass = new Set(instances.filter((o) => materials[o.material]!.transmission > 0).map((o) => o.mesh));
  const build = await engineBuild();
  const all = engine.metPieces();
  const evidence = engine.pieceEvidence();
  const found = meshes.flatMap(({ mesh }, i): PiecesEvidence[] => {
    if (madeMesh(mesh)) return [];
    const { blob } = pose.now.document.meshes[mesh]!;
    const pieces = all[i];
    if (!pieces) return [{ engine: build, meshes: [], whole: [blob] }];
    const met = pieces.map((p, piece) => pieceMet(p, evidence[i]![piece]!, by));
    return [{ engine: build, meshes: [pieceEvidence(blob, met, glass.has(i))], whole: [] }];
  });
  return { objects, pieces: joinedPieces(found) };
}

function pieceMet({ bytes, isMet }: MetPiece, e: PieceEvidence, { light, leastCost }: MeasuredBy): PieceMet {
  const { seen, reflected, refracted, bounced } = e.times;
  const times = seen + reflected + refracted + bounced;
  const ways = waysOf(MEETINGS.filter((how): how is Exclude<Meeting, 'lit'> => how !== 'lit' && e.times[how] > 0));
  const share = light > 0 ? (Math.max(0, e.brought) + e.shadowed) / light : 0;
  return {
    bytes,
    isMet,
    ways,
    cost: ways ? Math.max(leastCost, rounded(share)) : 0,
    nits: times ? rounded(Math.max(0, e.brought) / times) : 0,
  };
}
