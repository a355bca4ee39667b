// Which pieces of meshes a picture's rays reached, how, and what came of it. A mesh is loaded in pieces of a few hundred
// triangles, none of them before a ray comes to it, so that the rest might as well not be there.
import type { SceneDocument, SceneMesh } from '../scene/index.ts';
import { MEETINGS, type Meeting } from './meetings.ts';
import { packMet, unpackMet } from './metNodes.ts';
import { meshBytes } from './objectBytes.ts';

export interface PieceEvidence {
  /** Hash of the mesh. */
  readonly mesh: string;
  /** What each of its pieces takes in the engine's memory, in the order of their numbers. */
  readonly bytes: readonly number[];
  /** Which of them a ray reached: as `packMet` packs them. */
  readonly met: string;
  /** Of those, in their order, how rays met them: a bit for each of MEETINGS; 0: they only came near. */
  readonly ways: readonly number[];
  /** How much of the picture's light each may change, as costShare() of an object; and how bright it is, nits. */
  readonly costs: readonly number[];
  readonly nits: readonly number[];
  /** Something that shows it is of glass, whose back belongs to its front. */
  readonly isGlass: boolean;
}
/** What is known of a piece. */
export interface PieceMet {
  readonly bytes: number;
  readonly isMet: boolean;
  /** As in PieceEvidence; 0 of one that no ray reached. */
  readonly ways: number;
  readonly cost: number;
  readonly nits: number;
}
/** Several ways in which rays met a piece. */
export const waysOf = (met: readonly Meeting[]): number => met.reduce((bits, how) => bits | bitOf(how), 0);
const bitOf = (how: Meeting): number => 1 << MEETINGS.indexOf(how);
export const isMetBy = (ways: number, how: Meeting): boolean => (ways & bitOf(how)) !== 0;
export interface PiecesEvidence {
  /** The build of the engine that divided them: another may divide them otherwise. */
  readonly engine: string;
  readonly meshes: readonly PieceEvidence[];
  /** Hashes of meshes that were not loaded in pieces, in one of the looks at least. */
  readonly whole: readonly string[];
}

/** @param pieces in the order of their numbers */
export function pieceEvidence(mesh: string, pieces: readonly PieceMet[], isGlass = false): PieceEvidence {
  const reached = pieces.filter((p) => p.isMet);
  return {
    mesh,
    bytes: pieces.map((p) => p.bytes),
    met: packMet(
      pieces.flatMap(({ isMet }, piece) => (isMet ? [piece] : [])),
      pieces.length,
    ),
    ways: reached.map((p) => p.ways),
    costs: reached.map((p) => p.cost),
    nits: reached.map((p) => p.nits),
    isGlass,
  };
}
/** The other way round. */
export function piecesMet({ bytes, met, ways, costs, nits }: PieceEvidence): PieceMet[] {
  const isReached = unpackMet(met, bytes.length);
  let next = 0;
  return bytes.map((size, piece) => {
    if (!isReached(piece)) return { bytes: size, isMet: false, ways: 0, cost: 0, nits: 0 };
    const k = next++;
    return { bytes: size, isMet: true, ways: ways[k] ?? 0, cost: costs[k] ?? 0, nits: nits[k] ?? 0 };
  });
}

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
  if (known.bytes.length !== more.bytes.length) return undefined;
  const others = piecesMet(more);
  const joined = piecesMet(known).map((a, piece): PieceMet => {
    const b = others[piece]!;
    return {
      bytes: b.bytes,
      isMet: a.isMet || b.isMet,
      ways: a.ways | b.ways,
      cost: Math.max(a.cost, b.cost),
      nits: Math.max(a.nits, b.nits),
    };
  });
  return pieceEvidence(more.mesh, joined, known.isGlass || more.isGlass);
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
