// Which pieces of the meshes of objects that stay may be left out, and how a plan keeps them. Those that the camera sees
// itself, in reflections or through glass stay: without them what is seen had holes.
import { originalPath } from '../looks/targets.ts';
import type { SceneDocument } from '../scene/index.ts';
import { type CullEvidence, isLatelyMet } from './evidence.ts';
import type { LetGoPiece } from './letGo.ts';
import { packMet } from './metNodes.ts';
import { type PieceEvidence, type PieceMet, isMetBy, piecesMet } from './pieces.ts';

/** Of a mesh, wherever it is shown. */
export interface LeftOutOfMesh {
  /** All its pieces, so many; and which are left out, as `packMet` packs them. */
  readonly count: number;
  readonly pieces: string;
  /** So much of what its pieces take is theirs, 0…1. */
  readonly bytesShare: number;
  /** Of the picture's light they may change so much, by what was measured. */
  readonly costShare: number;
  /** How bright they may be. */
  readonly nits: number;
}
export interface LeftOutPieces {
  /** Build of the engine that divided the meshes: another loads all of them. */
  readonly engine: string;
  /** By hash of the mesh. */
  readonly meshes: Readonly<Record<string, LeftOutOfMesh>>;
}
export const NO_PIECES: LeftOutPieces = { engine: '', meshes: {} };

const SHOWS = ['seen', 'reflected', 'refracted'] as const;
const showsHoles = ({ ways }: Pick<PieceMet, 'ways'>): boolean => SHOWS.some((how) => isMetBy(ways, how));

/**
 * Pieces that rays came to, and that may go. None of a sequence of which some frames alone were measured, nor of glass.
 * @param pinned paths of objects that stay as they are
 * @param simplifies meshes that the camera does not see itself are simplified as wholes
 */
export function piecesToLetGo(
  e: CullEvidence,
  document: Pick<SceneDocument, 'nodes' | 'meshes'>,
  pinned: ReadonlySet<string>,
  simplifies: boolean,
): LetGoPiece[] {
  if (!e.pieces || e.isOfSomeFrames) return [];
  const users = usersOf(e, document);
  const stay = meshesOf(document, pinned);
  return e.pieces.meshes.flatMap((m): LetGoPiece[] => {
    // of most meshes no ray comes to any: they are not unpacked
    if (m.isGlass || stay.has(m.mesh) || m.ways.every((ways) => showsHoles({ ways }))) return [];
    const shownBy = users.get(m.mesh) ?? [];
    if (simplifies && !shownBy.some((o) => o.isSeen)) return [];
    const owner = shownBy.length === 1 ? shownBy[0]!.path : null;
    return piecesMet(m).flatMap((p, piece): LetGoPiece[] =>
      p.isMet && !showsHoles(p) ? [{ mesh: m.mesh, piece, costShare: p.cost, bytes: p.bytes, owner }] : [],
    );
  });
}
/** Hashes of what some objects, or copies of them, show. */
function meshesOf({ nodes, meshes }: Pick<SceneDocument, 'nodes' | 'meshes'>, paths: ReadonlySet<string>): Set<string> {
  const originals = new Set([...paths].map(originalPath));
  const own = nodes.filter((n) => paths.has(n.path) || originals.has(n.path));
  return new Set(own.flatMap((n) => n.parts ?? []).map((p) => meshes[p.mesh]!.blob));
}
interface User {
  readonly path: string;
  readonly isSeen: boolean;
}
/** By hash of the mesh the objects that were shown and met, copies among them. */
function usersOf(e: CullEvidence, { nodes, meshes }: Pick<SceneDocument, 'nodes' | 'meshes'>): Map<string, User[]> {
  const nodeOf = new Map(nodes.map((n) => [n.path, n]));
  const users = new Map<string, User[]>();
  for (const o of e.objects) {
    const node = nodeOf.get(o.path) ?? nodeOf.get(originalPath(o.path));
    const isSeen = o.times.seen > 0 || isLatelyMet(o);
    for (const blob of new Set(node?.parts?.map((p) => meshes[p.mesh]!.blob))) {
      const known = users.get(blob);
      if (known) known.push({ path: o.path, isSeen });
      else users.set(blob, [{ path: o.path, isSeen }]);
    }
  }
  return users;
}

/** As a plan keeps them. @param pieces of what was measured */
export function keptPieces(e: CullEvidence, pieces: readonly LetGoPiece[]): LeftOutPieces {
  if (!e.pieces || !pieces.length) return NO_PIECES;
  const gone = new Map<string, number[]>();
  for (const { mesh, piece } of pieces) {
    const own = gone.get(mesh);
    if (own) own.push(piece);
    else gone.set(mesh, [piece]);
  }
  const about = new Map(e.pieces.meshes.map((m) => [m.mesh, m]));
  const meshes = [...gone].map(([mesh, own]) => [mesh, leftOutOf(about.get(mesh)!, own, e.meanNits)] as const);
  return { engine: e.pieces.engine, meshes: Object.fromEntries(meshes.sort(([a], [b]) => (a < b ? -1 : 1))) };
}
function leftOutOf(m: PieceEvidence, gone: readonly number[], meanNits: number): LeftOutOfMesh {
  const all = piecesMet(m);
  const sum = (numbers: readonly number[]) => numbers.reduce((n, x) => n + x, 0);
  return {
    count: m.bytes.length,
    pieces: packMet(gone, m.bytes.length),
    bytesShare: sum(gone.map((piece) => m.bytes[piece]!)) / Math.max(1, sum(m.bytes)),
    costShare: sum(gone.map((piece) => all[piece]!.cost)),
    // what was met seldom may be as bright as anything
    nits: gone.reduce((most, piece) => Math.max(most, all[piece]!.nits), meanNits),
  };
}

/** What a picture depends on of them, in an order that nothing else decides; empty where there are none. */
export const leftOutPiecesText = ({ engine, meshes }: LeftOutPieces): string[] =>
  Object.entries(meshes)
    .map(([mesh, { pieces }]) => `${mesh} ${engine} ${pieces}`)
    .sort();
