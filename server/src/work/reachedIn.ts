// What rays of a picture may have met: which objects, and which pieces of their meshes.
import { type PiecesEvidence, joinedPieces, pieceEvidence } from '@variscen/core/cull';
import { type Engine, type Selection, madeMesh } from '@variscen/engine';
import { engineBuild } from '@variscen/engine/node';

export interface Reached {
  /** Their paths. */
  readonly objects: ReadonlySet<string>;
  /** undefined where there are no meshes. */
  readonly pieces: PiecesEvidence | undefined;
}

/** @param engine with what was selected loaded, and rendered */
export async function reachedIn(engine: Engine, { instances, meshes, pose }: Selection): Promise<Reached> {
  const isReached = engine.reached();
  const objects = new Set(instances.flatMap((o, i) => (isReached[i] ? [o.object ?? o.name] : [])));
  const build = await engineBuild();
  const all = engine.metPieces();
  const found = meshes.flatMap(({ mesh }, i): PiecesEvidence[] => {
    if (madeMesh(mesh)) return [];
    const { blob } = pose.now.document.meshes[mesh]!;
    const pieces = all[i];
    if (!pieces) return [{ engine: build, meshes: [], whole: [blob] }];
    const [bytes, isMet] = [pieces.map((p) => p.bytes), pieces.map((p) => p.isMet)];
    return [{ engine: build, meshes: [pieceEvidence(blob, bytes, isMet)], whole: [] }];
  });
  return { objects, pieces: joinedPieces(found) };
}
