// Divides a mesh along its tree into pieces of a few hundred triangles. The nodes above them, the trunk, stay in memory;
// a piece's nodes, triangles and vertices are loaded or not. What rays meet does not depend on it: boxes, triangles and
// the shape of the tree are those of the whole mesh.
import * as K from '../kernel/layout/index.ts';
import type { EngineMesh, PieceCounts, Vec3 } from './scene.ts';
import {
  BASE,
  FLAGS,
  HEAD_BYTES,
  LINK_WORDS,
  MAGIC,
  MOVED_BY,
  TABLE_WORDS,
  align,
  piecePlaces,
  referencesOf,
} from './storedMesh.ts';

/** Of a piece, at most. Small ones leave out more and are found by more stubs. */
export const PIECE_TRIANGLES = 512;
const EMPTY = 0xffffffff;
const NODE_WORDS = K.NODE.BYTES / 4;
const BLOCK_WORDS = K.BLOCK.BYTES / 4;

/** A part of the tree that goes into one piece whole. */
interface Branch {
  readonly ref: number;
  readonly triangles: number;
  /** The word of the trunk that refers to it. */
  readonly word: number;
}
interface Piece extends PieceCounts {
  readonly links: readonly { readonly word: number; readonly reference: number }[];
  readonly bytes: Uint8Array;
}

/**
 * @param structure the bytes that the builder made of the mesh, its root first @param builtAt where they stood
 * @param movedBy what was taken from the mesh's positions
 */
export function divideMesh(mesh: EngineMesh, structure: Uint8Array, builtAt: number, movedBy: Vec3): Uint8Array {
  const tree = new Tree(structure, builtAt);
  const { trunk, branches } = cutTree(tree);
  const pieces: Piece[] = [];
  const divider = new Divider(mesh, tree);
  for (const together of grouped(branches)) pieces.push(divider.piece(together, pieces.length, trunk));
  return packed(mesh, movedBy, trunk, pieces);
}

/** For each triangle of a mesh the number of its piece, as `divideMesh` divides the same structure. */
export function pieceOfTriangles(mesh: EngineMesh, structure: Uint8Array, builtAt: number): Uint32Array {
  const tree = new Tree(structure, builtAt);
  const pieces = new Uint32Array(mesh.indices.length / 3);
  grouped(cutTree(tree).branches).forEach((branches, piece) => {
    for (const { ref } of branches) for (const triangle of tree.trianglesBelow(ref)) pieces[triangle] = piece;
  });
  return pieces;
}

class Tree {
  readonly words: Uint32Array;
  private readonly counts = new Map<number, number>();
  constructor(
    structure: Uint8Array,
    private readonly builtAt: number,
  ) {
    this.words = new Uint32Array(structure.slice().buffer);
  }
  get root(): number {
    return this.builtAt;
  }
  /** Where in words a node or the blocks of a leaf begin. */
  at(ref: number): number {
    return ((ref & ~K.REF.MASK) - this.builtAt) >>> 2;
  }
  children(node: number): number[] {
    return referencesOf(this.words, this.at(node));
  }
  /** Numbers of the triangles of a leaf. */
  triangles(leaf: number): number[] {
    const out: number[] = [];
    for (let b = 0; b < (leaf & K.REF.MASK); b++)
      for (let lane = 0; lane < 4; lane++) {
        const number = this.words[this.at(leaf) + b * BLOCK_WORDS + K.BLOCK.PRIM / 4 + lane]!;
        if (number !== EMPTY) out.push(number);
      }
    return out;
  }
  trianglesBelow(ref: number): number[] {
    if (isLeaf(ref)) return this.triangles(ref);
    return this.children(ref).flatMap((q) => this.trianglesBelow(this.words[q]!));
  }
  count(ref: number): number {
    if (isLeaf(ref)) return this.triangles(ref).length;
    let n = this.counts.get(ref);
    if (n === undefined) {
      n = this.children(ref).reduce((sum, q) => sum + this.count(this.words[q]!), 0);
      this.counts.set(ref, n);
    }
    return n;
  }
}
const isLeaf = (ref: number): boolean => (ref & K.REF.MASK) !== 0;

/** The root and all nodes that hold more than a piece may; below them the branches, in the order of the tree. */
function cutTree(tree: Tree): { readonly trunk: Uint32Array; readonly branches: readonly Branch[] } {
  const words: number[] = [];
  const branches: Branch[] = [];
  const visit = (ref: number): number => {
    const at = words.length;
    words.push(...tree.words.subarray(tree.at(ref), tree.at(ref) + NODE_WORDS));
    for (const q of tree.children(ref)) {
      const child = tree.words[q]!;
      const word = at + (q - tree.at(ref));
      const triangles = tree.count(child);
      if (isLeaf(child) || triangles <= PIECE_TRIANGLES) branches.push({ ref: child, triangles, word });
      else words[word] = visit(child);
    }
    return BASE + at * 4;
  };
  visit(tree.root);
  return { trunk: Uint32Array.from(words), branches };
}

/** Neighbours go into one piece as long as it may hold them. */
function grouped(branches: readonly Branch[]): Branch[][] {
  const groups: Branch[][] = [];
  let triangles = Infinity;
  for (const branch of branches) {
    triangles += branch.triangles;
    if (triangles > PIECE_TRIANGLES) {
      groups.push([]);
      triangles = branch.triangles;
    }
    groups.at(-1)!.push(branch);
  }
  return groups;
}

class Divider {
  /** For each vertex of the mesh its place in the piece that is being made, and in which piece that was. */
  private readonly places: Uint32Array;
  private readonly placedIn: Int32Array;

  constructor(
    private readonly mesh: EngineMesh,
    private readonly tree: Tree,
  ) {
    const vertices = mesh.positions.length / 3;
    this.places = new Uint32Array(vertices);
    this.placedIn = new Int32Array(vertices).fill(-1);
  }

  /** Notes in the trunk which piece hangs where. */
  piece(branches: readonly Branch[], number: number, trunk: Uint32Array): Piece {
    const numbers = branches.flatMap((b) => this.tree.trianglesBelow(b.ref)).sort((a, b) => a - b);
    const label = new Map(numbers.map((n, local) => [n, labelOf(number, local)]));
    const words: number[] = [];
    const links = branches.map((b) => ({ word: b.word, reference: this.copy(b.ref, words, label) }));
    for (const { word } of links) trunk[word] = (number << 5) | K.REF.STUB;
    const { indices, vertices } = this.indicesOf(numbers, number);
    const counts = {
      vertices: vertices.length,
      triangles: numbers.length,
      accelerationBytes: words.length * 4,
    };
    return { ...counts, links, bytes: this.bytesOf(counts, words, indices, vertices) };
  }
  /** As the builder lays it out: a node, its leaves, then what is below it. Returns the reference relative to BASE. */
  private copy(ref: number, out: number[], label: ReadonlyMap<number, number>): number {
    const { tree } = this;
    const from = tree.at(ref);
    if (isLeaf(ref)) {
      const at = out.length;
      const blocks = ref & K.REF.MASK;
      out.push(...tree.words.subarray(from, from + blocks * BLOCK_WORDS));
      for (let b = 0; b < blocks; b++)
        for (let lane = 0; lane < 4; lane++) {
          const q = at + b * BLOCK_WORDS + K.BLOCK.PRIM / 4 + lane;
          if (out[q] !== EMPTY) out[q] = label.get(out[q]!)!;
        }
      return BASE + at * 4 + blocks;
    }
    while (out.length % 16) out.push(0);
    const at = out.length;
    out.push(...tree.words.subarray(from, from + NODE_WORDS));
    for (const leaves of [true, false])
      for (const q of tree.children(ref)) {
        const child = tree.words[q]!;
        if (isLeaf(child) === leaves) out[at + (q - from)] = this.copy(child, out, label);
      }
    return BASE + at * 4;
  }
  /** Indices into the piece's own vertices, and which of the mesh those are. */
  private indicesOf(numbers: readonly number[], piece: number): { indices: number[]; vertices: number[] } {
    const indices: number[] = [];
    const vertices: number[] = [];
    for (const n of numbers)
      for (let c = 0; c < 3; c++) {
        const v = this.mesh.indices[n * 3 + c]!;
        if (this.placedIn[v] !== piece) {
          this.placedIn[v] = piece;
          this.places[v] = vertices.push(v) - 1;
        }
        indices.push(this.places[v]!);
      }
    return { indices, vertices };
  }
  private bytesOf(
    counts: PieceCounts,
    structure: readonly number[],
    indices: readonly number[],
    vertices: readonly number[],
  ): Uint8Array {
    const { bytes, at } = piecePlaces(counts, attributesOf(this.mesh));
    const out = new Uint8Array(bytes);
    const words = new Uint32Array(out.buffer);
    const floats = new Float32Array(out.buffer);
    words.set(structure, at.acceleration! >>> 2);
    words.set(indices, at.indices! >>> 2);
    for (const name of FLAGS) {
      const all = this.mesh[name];
      if (!all) continue;
      const size = all.length / (this.mesh.positions.length / 3);
      vertices.forEach((v, i) => {
        for (let c = 0; c < size; c++) floats[(at[name]! >>> 2) + i * size + c] = all[v * size + c]!;
      });
    }
    return out;
  }
}
const labelOf = (piece: number, local: number): number => (0x80000000 | (piece << K.GEOM.PIECE_SHIFT) | local) >>> 0;
const attributesOf = (m: EngineMesh) => ({ normals: !!m.normals, uv0: !!m.uv0, uv1: !!m.uv1, colors: !!m.colors });

function packed(mesh: EngineMesh, movedBy: Vec3, trunk: Uint32Array, pieces: readonly Piece[]): Uint8Array {
  const links = pieces.flatMap((p, i) => p.links.flatMap(({ word, reference }) => [word, reference, i]));
  const has = attributesOf(mesh);
  const flags = FLAGS.reduce((bits, name, i) => bits | (has[name] ? 1 << i : 0), 0);
  const begin = align(HEAD_BYTES + trunk.byteLength + (pieces.length * TABLE_WORDS + links.length) * 4);
  const out = new Uint8Array(pieces.reduce((sum, p) => sum + p.bytes.length, begin));
  const words = new Uint32Array(out.buffer, 0, begin / 4);
  words.set([MAGIC, mesh.positions.length / 3, mesh.indices.length / 3, flags]);
  words.set([trunk.byteLength, pieces.length, links.length / LINK_WORDS, begin], 4);
  new Float64Array(out.buffer, MOVED_BY, 3).set(movedBy);
  let at = HEAD_BYTES / 4;
  words.set(trunk, at);
  at += trunk.length;
  let from = begin;
  for (const { vertices, triangles, accelerationBytes, bytes } of pieces) {
    words.set([vertices, triangles, accelerationBytes, from / 64], at);
    at += TABLE_WORDS;
    out.set(bytes, from);
    from += bytes.length;
  }
  words.set(links, at);
  return out;
}
