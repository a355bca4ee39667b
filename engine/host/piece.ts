// A mesh with its structure, as bytes that can stand anywhere in engine memory: what is loaded when a ray reaches it.
//
// Bytes: a head (256 B), then the structure, indices and attributes one after another, each 64-aligned. Head: u32 magic,
// vertices, triangles, flags, bytes of the structure | from 32 three f64 by which positions were moved | from 128 the
// root node. References are as if the structure began at BASE.
import * as K from '../kernel/layout/index.ts';
import { EngineError, type EngineMesh, type PieceHead, type Vec3 } from './scene.ts';

export const HEAD_BYTES = 256;
const MAGIC = 0x31435056;
const MOVED_BY = 32;
const ROOT = 128;
const BASE = 64;
const FLAGS = ['normals', 'uv0', 'uv1', 'colors'] as const;

/** Which attributes there are, or which of them are wanted. */
export type Attributes = Readonly<Record<(typeof FLAGS)[number], boolean>>;

type Part = 'acceleration' | 'indices' | keyof Attributes;
const PARTS: readonly Part[] = ['acceleration', 'indices', ...FLAGS];

const align = (n: number): number => Math.ceil(n / 64) * 64;
/** Vertices' attributes are read four floats at a time, so a little follows. */
function bytesOf(part: Part, { vertices, triangles, accelerationBytes }: PieceCounts): number {
  const sizes = { normals: 12, uv0: 8, uv1: 8, colors: 16 };
  if (part === 'acceleration') return align(accelerationBytes);
  if (part === 'indices') return align(triangles * 12);
  return align(vertices * sizes[part] + 16);
}
type PieceCounts = Pick<PieceHead, 'vertices' | 'triangles' | 'accelerationBytes'>;

export interface PiecePlaces {
  readonly bytes: number;
  /** From where the piece stands; undefined where it has no such part, or it is not wanted. */
  readonly at: Readonly<Record<Part, number | undefined>>;
}
/** Where the parts stand that are wanted of a piece, one after another. */
export function piecePlaces(counts: PieceCounts, wanted: Attributes): PiecePlaces {
  const at: Record<Part, number | undefined> = {
    acceleration: undefined,
    indices: undefined,
    normals: undefined,
    uv0: undefined,
    uv1: undefined,
    colors: undefined,
  };
  let bytes = 0;
  for (const part of PARTS) {
    if (part !== 'acceleration' && part !== 'indices' && !wanted[part]) continue;
    at[part] = bytes;
    bytes += bytesOf(part, counts);
  }
  return { bytes, at };
}

/**
 * @param structure the bytes that the builder made of it, its root first @param builtAt where they stood
 * @param movedBy what was taken from the mesh's positions
 */
export function packPiece(mesh: EngineMesh, structure: Uint8Array, builtAt: number, movedBy: Vec3): Uint8Array {
  const counts = {
    vertices: mesh.positions.length / 3,
    triangles: mesh.indices.length / 3,
    accelerationBytes: structure.length,
  };
  const has = { normals: !!mesh.normals, uv0: !!mesh.uv0, uv1: !!mesh.uv1, colors: !!mesh.colors };
  const { bytes, at } = piecePlaces(counts, has);
  const out = new Uint8Array(HEAD_BYTES + bytes);
  const words = new Uint32Array(out.buffer);
  const floats = new Float32Array(out.buffer);
  const flags = FLAGS.reduce((bits, name, i) => bits | (has[name] ? 1 << i : 0), 0);
  words.set([MAGIC, counts.vertices, counts.triangles, flags, counts.accelerationBytes]);
  new Float64Array(out.buffer, MOVED_BY, 3).set(movedBy);
  out.set(structure, HEAD_BYTES);
  moveStructure(words, HEAD_BYTES, builtAt, BASE);
  out.copyWithin(ROOT, HEAD_BYTES, HEAD_BYTES + K.NODE.BYTES);
  words.set(mesh.indices, (HEAD_BYTES + at.indices!) >> 2);
  for (const name of FLAGS) if (mesh[name]) floats.set(mesh[name], (HEAD_BYTES + at[name]!) >> 2);
  return out;
}

/** @param bytes the head of a piece at least. @throws EngineError BAD_MESH of other bytes */
export function readPieceHead(bytes: Uint8Array): PieceHead {
  const head = bytes.slice(0, HEAD_BYTES);
  const words = new Uint32Array(head.buffer);
  if (head.length < HEAD_BYTES || words[0] !== MAGIC)
    throw new EngineError('BAD_MESH', 'A mesh kept for loading is damaged. Clear the cache of this machine.');
  const [, vertices, triangles, flags, accelerationBytes] = words as unknown as readonly number[];
  const has = (i: number): boolean => (flags! & (1 << i)) !== 0;
  const [x, y, z] = new Float64Array(head.buffer, MOVED_BY, 3);
  return {
    vertices: vertices!,
    triangles: triangles!,
    accelerationBytes: accelerationBytes!,
    normals: has(0),
    uv0: has(1),
    uv1: has(2),
    colors: has(3),
    movedBy: [x!, y!, z!],
    root: words.slice(ROOT >> 2, (ROOT + K.NODE.BYTES) >> 2),
  };
}

/** References of a node, those of empty places left out, as offsets of words within it. */
export function referencesOf(node: Uint32Array, at = 0): number[] {
  const places = [0, 1, 2, 3].map((c) => at + K.NODE.REF / 4 + c);
  return places.filter((q) => node[q] !== 0);
}

/**
 * Writes what is wanted of a piece to `to` in engine memory. Returns the references of its root there.
 * @param bytes of the whole piece @throws EngineError BAD_MESH where they are others than the head says
 */
export function putPiece(
  bytes: Uint8Array,
  head: PieceHead,
  places: PiecePlaces,
  memory: ArrayBufferLike,
  to: number,
): readonly number[] {
  const whole = piecePlaces(head, head);
  if (bytes.length !== HEAD_BYTES + whole.bytes)
    throw new EngineError('BAD_MESH', 'A mesh kept for loading is damaged. Clear the cache of this machine.');
  const target = new Uint8Array(memory);
  for (const part of PARTS) {
    const at = places.at[part];
    if (at === undefined) continue;
    const from = HEAD_BYTES + whole.at[part]!;
    target.set(bytes.subarray(from, from + bytesOf(part, head)), to + at);
  }
  const words = new Uint32Array(memory);
  const root = to + places.at.acceleration!;
  moveStructure(words, root, BASE, root);
  return referencesOf(words, root >> 2).map((q) => words[q]!);
}

/** Makes references of the structure that stands at `at`, which were as if it began at `from`, be as if at `to`. */
function moveStructure(words: Uint32Array, at: number, from: number, to: number): void {
  const nodes = [at];
  for (let i = 0; i < nodes.length; i++)
    for (const q of referencesOf(words, nodes[i]! >> 2)) {
      const ref = words[q]!;
      words[q] = ref - from + to;
      if ((ref & K.REF.MASK) === 0) nodes.push(ref - from + at);
    }
}
