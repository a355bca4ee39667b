// A mesh with its structure, divided into pieces, as bytes that are read piece by piece when rays reach them.
//
// Bytes: a head (128 B), the trunk, a table of the pieces, a table of the links, then the pieces, each 64-aligned.
//   head: u32 magic, vertices, triangles, flags, bytes of the trunk, pieces, links, bytes of all before the pieces |
//     from 32 three f64 by which positions were moved
//   trunk: the nodes above the pieces, the root first, with references as if it began at BASE; where a piece hangs, its
//     number × 32 + REF.STUB
//   a piece in its table: u32 vertices, triangles, bytes of its structure, where it begins / 64
//   a link: u32 word of the trunk, reference as if the piece's structure began at BASE, number of the piece
//   a piece: structure, indices and attributes one after another, each 64-aligned
import * as K from '../kernel/layout/index.ts';
import { EngineError, type PieceCounts, type StoredHead, type StoredPiece } from './scene.ts';
import type { HeldViews } from './views.ts';

export const HEAD_BYTES = 128;
export const MAGIC = 0x324d5356;
export const MOVED_BY = 32;
/** What references are relative to. Not 0, which is an empty place. */
export const BASE = 64;
export const TABLE_WORDS = 4;
export const LINK_WORDS = 3;
export const FLAGS = ['normals', 'uv0', 'uv1', 'colors'] as const;

/** Which attributes there are, or which of them are wanted. */
export type Attributes = Readonly<Record<(typeof FLAGS)[number], boolean>>;

type Part = 'acceleration' | 'indices' | keyof Attributes;
const PARTS: readonly Part[] = ['acceleration', 'indices', ...FLAGS];
const ATTRIBUTE_BYTES = { normals: 12, uv0: 8, uv1: 8, colors: 16 } as const;

export const align = (n: number): number => Math.ceil(n / 64) * 64;
/** Vertices' attributes are read four floats at a time, so a little follows. */
function bytesOf(part: Part, { vertices, triangles, accelerationBytes }: PieceCounts): number {
  if (part === 'acceleration') return align(accelerationBytes);
  if (part === 'indices') return align(triangles * 12);
  return align(vertices * ATTRIBUTE_BYTES[part] + 16);
}

export interface PiecePlaces {
  readonly bytes: number;
  /** From where the piece stands; undefined where it has no such part, or it is not wanted. */
  readonly at: Readonly<Partial<Record<Part, number>>>;
}
/** Of a piece that is left out. */
export const NOWHERE: PiecePlaces = { bytes: 0, at: {} };
/** Where the parts stand that are wanted of a piece, one after another. */
export function piecePlaces(counts: PieceCounts, wanted: Attributes): PiecePlaces {
  const at: Partial<Record<Part, number>> = {};
  let bytes = 0;
  for (const part of PARTS) {
    if (part !== 'acceleration' && part !== 'indices' && !wanted[part]) continue;
    at[part] = bytes;
    bytes += bytesOf(part, counts);
  }
  return { bytes, at };
}
export const pieceBytes = (counts: PieceCounts, wanted: Attributes): number => piecePlaces(counts, wanted).bytes;

const damaged = () =>
  new EngineError('BAD_MESH', 'A mesh kept for loading is damaged. Clear the cache of this machine.');

/**
 * How many bytes a stored mesh's head takes with its tables.
 * @param bytes the first HEAD_BYTES at least @throws EngineError BAD_MESH
 */
export function headBytes(bytes: Uint8Array): number {
  if (bytes.length < HEAD_BYTES) throw damaged();
  const words = new Uint32Array(bytes.slice(0, HEAD_BYTES).buffer);
  if (words[0] !== MAGIC) throw damaged();
  return words[7]!;
}

/** @param bytes headBytes() of them at least. @throws EngineError BAD_MESH of other bytes */
export function readStoredHead(bytes: Uint8Array): StoredHead {
  const length = headBytes(bytes);
  if (bytes.length < length) throw damaged();
  const words = new Uint32Array(bytes.slice(0, length).buffer);
  const [, vertices, triangles, flags, trunkBytes, pieceCount, linkCount] = words as unknown as readonly number[];
  const has = (i: number): boolean => (flags! & (1 << i)) !== 0;
  const [x, y, z] = new Float64Array(words.buffer, MOVED_BY, 3);
  const trunkFrom = HEAD_BYTES / 4;
  const tableFrom = trunkFrom + trunkBytes! / 4;
  const linksFrom = tableFrom + pieceCount! * TABLE_WORDS;
  const links: StoredPiece['links'][number][][] = Array.from({ length: pieceCount! }, () => []);
  for (let i = 0; i < linkCount!; i++) {
    const [word, reference, piece] = words.subarray(linksFrom + i * LINK_WORDS) as unknown as readonly number[];
    links[piece!]!.push({ word: word!, reference: reference! });
  }
  return {
    vertices: vertices!,
    triangles: triangles!,
    normals: has(0),
    uv0: has(1),
    uv1: has(2),
    colors: has(3),
    movedBy: [x!, y!, z!],
    trunk: words.slice(trunkFrom, tableFrom),
    pieces: links.map((l, i) => {
      const [v, t, accelerationBytes, from] = words.subarray(
        tableFrom + i * TABLE_WORDS,
      ) as unknown as readonly number[];
      return { vertices: v!, triangles: t!, accelerationBytes: accelerationBytes!, from: from! * 64, links: l };
    }),
  };
}

/** Places of the references of a node that are not empty, as words, the node's first being word `at`. */
export function referencesOf(node: Uint32Array, at = 0): number[] {
  return [0, 1, 2, 3].map((c) => at + K.NODE.REF / 4 + c).filter((q) => node[q] !== 0);
}

/** Writes the trunk to `to`, with the stubs of pieces that follow one another from `stubs`. */
export function putTrunk({ trunk }: StoredHead, words: Uint32Array, to: number, stubs: number): void {
  words.set(trunk, to >>> 2);
  for (let node = 0; node < trunk.length; node += K.NODE.BYTES / 4)
    for (const q of referencesOf(trunk, node)) {
      const ref = trunk[q]!;
      const isLink = (ref & K.REF.MASK) === K.REF.STUB;
      words[(to >>> 2) + q] = isLink ? stubOf(stubs, ref >>> 5) : ref - BASE + to;
    }
}
export const stubOf = (stubs: number, piece: number): number => (stubs + piece * K.STUB.BYTES) | K.REF.STUB;

/**
 * Writes what is wanted of a piece to `to` in engine memory. Returns where its structure stands there.
 * @param bytes of the whole piece @param whole where its parts stand in them
 * @throws EngineError BAD_MESH where they are others than the head says
 */
export function putPiece(
  bytes: Uint8Array,
  piece: StoredPiece,
  whole: PiecePlaces,
  places: PiecePlaces,
  { u8, u32 }: Pick<HeldViews, 'u8' | 'u32'>,
  to: number,
): number {
  if (bytes.length !== whole.bytes) throw damaged();
  const hasAll = whole.bytes === places.bytes;
  if (hasAll) u8.set(bytes, to);
  else
    for (const part of PARTS) {
      const at = places.at[part];
      if (at === undefined) continue;
      const from = whole.at[part]!;
      u8.set(bytes.subarray(from, from + bytesOf(part, piece)), to + at);
    }
  const structure = to + places.at.acceleration!;
  for (const { reference } of piece.links) moveReferences(u32, reference - BASE + structure, structure - BASE);
  return structure;
}
/** References at and below a node that was written as if its structure stood at BASE. */
function moveReferences(u32: Uint32Array, ref: number, by: number): void {
  if ((ref & K.REF.MASK) !== 0) return; // triangles
  const first = (ref + K.NODE.REF) >>> 2;
  for (let q = first; q < first + 4; q++) {
    if (u32[q] === 0) continue;
    u32[q]! += by;
    moveReferences(u32, u32[q]!, by);
  }
}
