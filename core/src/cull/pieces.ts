// Which pieces of meshes a picture's rays reached. A mesh is loaded in pieces of a few hundred triangles, none of them
// before a ray comes to it, so that the rest might as well not be there.
import type { SceneDocument, SceneMesh } from '../scene/index.ts';
import { joinedMet, packMet, unpackMet } from './metNodes.ts';
import { meshBytes } from './objectBytes.ts';

export interface PieceEvidence {
  /** Hash of the mesh. */
  readonly mesh: string;
  /** What each of its pieces takes in the engine's memory, in the order of their numbers. */
  readonly bytes: readonly number[];
  /** Which of them a ray reached: as `packMet` packs them. */
  readonly met: string;
}
export interface PiecesEvidence {
  /** The build of the engine that divided them: another may divide them otherwise. */
  readonly engine: string;
  readonly meshes: readonly PieceEvidence[];
  /** Hashes of meshes that were not loaded in pieces, in one of the looks at least. */
  readonly whole: readonly string[];
}

/** @param met of each piece whether a ray reached it */
export const pieceEvidence = (mesh: string, bytes: readonly number[], met: readonly boolean[]): PieceEvidence => ({
  mesh,
  bytes,
  met: packMet(
    met.flatMap((is, piece) => (is ? [piece] : [])),
    met.length,
  ),
});

/** Of several looks what any of them reached; undefined where it is not known of one, or another engine divided it. */
export function joinedPieces(all: readonly (PiecesEvidence | undefined)[]): PiecesEvidence | undefined {
  const [first] = all;
  if (!first) return undefined;
  const whole = new Set<string>();
  const meshes = new Map<string, PieceEvidence>();
  for (const own of all) {
    if (own?.engine !== first.engine) return undefined;
    for (const mesh of own.whole) whole.add(mesh);
    for (const e of own.meshes) {
      const joined = joinedMesh(meshes.get(e.mesh), e);
      if (joined) meshes.set(e.mesh, joined);
      else whole.add(e.mesh);
    }
  }
  return { engine: first.engine, meshes: [...meshes.values()].filter((e) => !whole.has(e.mesh)), whole: [...whole] };
}
function joinedMesh(known: PieceEvidence | undefined, more: PieceEvidence): PieceEvidence | undefined {
  if (!known) return more;
  const met = known.bytes.length === more.bytes.length ? joinedMet(known.met, more.met) : undefined;
  return met === undefined ? undefined : { ...more, met };
}

/** Of a mesh that was loaded in pieces. */
export interface MeshReached {
  readonly isReached: (piece: number) => boolean;
  readonly isWhole: boolean;
  readonly isNone: boolean;
  /** Of its pieces that a ray reached, and of the others, in the engine's memory. */
  readonly bytes: number;
  readonly unreachedBytes: number;
}
/** By hash of the mesh. */
export function reachedMeshes({ meshes }: PiecesEvidence): Map<string, MeshReached> {
  return new Map(meshes.map((e) => [e.mesh, reachedOf(e)]));
}
function reachedOf({ bytes, met }: PieceEvidence): MeshReached {
  const isReached = unpackMet(met, bytes.length);
  const sum = (of: readonly number[]) => of.reduce((all, n) => all + n, 0);
  const reached = bytes.filter((_, piece) => isReached(piece));
  return {
    isReached,
    isWhole: reached.length === bytes.length,
    isNone: reached.length === 0,
    bytes: sum(reached),
    unreachedBytes: sum(bytes) - sum(reached),
  };
}

/**
 * What rays reached of a mesh, bytes in the engine's memory: all of it where it is not loaded in pieces, or nothing is
 * known of them.
 */
export function reachedBytes(pieces: PiecesEvidence | undefined): (mesh: SceneMesh) => number {
  const known = pieces ? reachedMeshes(pieces) : new Map<string, MeshReached>();
  return (mesh) => {
    const reached = known.get(mesh.blob);
    return reached && !reached.isWhole ? Math.min(meshBytes(mesh), reached.bytes) : meshBytes(mesh);
  };
}

/** What no ray reached of the meshes of some nodes, bytes in the engine's memory, each mesh counted once. */
export function unreachedBytes(
  { nodes, meshes }: Pick<SceneDocument, 'nodes' | 'meshes'>,
  shown: Iterable<number>,
  pieces: PiecesEvidence,
): number {
  const known = reachedMeshes(pieces);
  const used = new Set<string>();
  for (const node of shown) for (const p of nodes[node]!.parts ?? []) used.add(meshes[p.mesh]!.blob);
  return [...used].reduce((sum, mesh) => sum + (known.get(mesh)?.unreachedBytes ?? 0), 0);
}
