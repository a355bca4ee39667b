// Divides a mesh along its tree into pieces of a few hundred triangles. The nodes above them, the trunk, stay in
// memory; a piece's nodes, triangles and vertices are loaded or not. What rays meet does not depend on it: boxes,
// triangles and the shape of the tree are those of the whole mesh.
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
/** Triangles of a block. */
const LANES = 4;

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
  const numbers = new Uint32Array(PIECE_TRIANGLES);
  grouped(cutTree(tree).branches).forEach((branches, piece) => {
    const count = trianglesOf(tree, branches, numbers);
    for (let i = 0; i < count; i++) pieces[numbers[i]!] = piece;
  });
  return pieces;
}

class Tree {
  readonly words: Uint32Array;
  private readonly counts = new Map<number, number>();
  private readonly ofLeaf = new Uint32Array(K.REF.MASK * LANES);
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
  /** Numbers of the triangles at or below a reference are put into `to` from `at` on. Returns where they end. */
  triangles(ref: number, to: Uint32Array, at: number): number {
    if (!isLeaf(ref)) return this.children(ref).reduce((end, q) => this.triangles(this.words[q]!, to, end), at);
    let end = at;
    const first = this.at(ref) + K.BLOCK.PRIM / 4;
    for (let b = 0; b < (ref & K.REF.MASK); b++)
      for (let q = first + b * BLOCK_WORDS; q < first + b * BLOCK_WORDS + LANES; q++) {
        const number = this.words[q]!;
        if (number !== EMPTY) to[end++] = number;
      }
    return end;
  }
  count(ref: number): number {
    if (isLeaf(ref)) return this.triangles(ref, this.ofLeaf, 0);
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

const trianglesOf = (tree: Tree, branches: readonly Branch[], to: Uint32Array): number =>
  branches.reduce((end, { ref }) => tree.triangles(ref, to, end), 0);

class Divider {
  private readonly numbers = new Uint32Array(PIECE_TRIANGLES);
  /** The structure of the piece that is being made, and how much of it is. */
  private words = new Uint32Array(2 ** 14);
  private length = 0;
  /** For each triangle of the mesh what it is called in its piece. */
  private readonly labels: Uint32Array;
  /** For each vertex of the mesh its place in the piece that is being made, and in which piece that was. */
  private readonly places: Uint32Array;
  private readonly placedIn: Int32Array;

  constructor(
    private readonly mesh: EngineMesh,
    private readonly tree: Tree,
  ) {
    this.labels = new Uint32Array(mesh.indices.length / 3);
    const vertices = mesh.positions.length / 3;
    this.places = new Uint32Array(vertices);
    this.placedIn = new Int32Array(vertices).fill(-1);
  }

  /** Notes in the trunk which piece hangs where. */
  piece(branches: readonly Branch[], number: number, trunk: Uint32Array): Piece {
    const numbers = this.numbers.subarray(0, trianglesOf(this.tree, branches, this.numbers)).sort();
    numbers.forEach((n, local) => {
      this.labels[n] = labelOf(number, local);
    });
    this.length = 0;
    const links = branches.map((b) => ({ word: b.word, reference: this.copy(b.ref) }));
    for (const { word } of links) trunk[word] = (number << 5) | K.REF.STUB;
    const { indices, vertices } = this.indicesOf(numbers, number);
    const counts = {
      vertices: vertices.length,
      triangles: numbers.length,
      accelerationBytes: this.length * 4,
    };
    return { ...counts, links, bytes: this.bytesOf(counts, this.words.subarray(0, this.length), indices, vertices) };
  }
  /** As the builder lays it out: a node, its leaves, then what is below it. Returns the reference relative to BASE. */
  private copy(ref: number): number {
    const { tree } = this;
    const from = tree.at(ref);
    if (isLeaf(ref)) {
      const blocks = ref & K.REF.MASK;
      const at = this.put(tree.words.subarray(from, from + blocks * BLOCK_WORDS));
      for (let b = 0; b < blocks; b++) this.label(at + b * BLOCK_WORDS + K.BLOCK.PRIM / 4);
      return BASE + at * 4 + blocks;
    }
    const at = this.put(tree.words.subarray(from, from + NODE_WORDS), Math.ceil(this.length / 16) * 16);
    for (const leaves of [true, false])
      for (const q of tree.children(ref)) {
        const child = tree.words[q]!;
        if (isLeaf(child) !== leaves) continue;
        const copied = this.copy(child);
        this.words[at + (q - from)] = copied;
      }
    return BASE + at * 4;
  }
  /** Numbers of a block's triangles become those of the piece. */
  private label(first: number): void {
    for (let q = first; q < first + LANES; q++)
      if (this.words[q] !== EMPTY) this.words[q] = this.labels[this.words[q]!]!;
  }
  /** Returns where it stands. */
  private put(some: Uint32Array, at = this.length): number {
    const end = at + some.length;
    if (end > this.words.length) {
      const larger = new Uint32Array(this.words.length * 2);
      larger.set(this.words);
      this.words = larger;
    }
    this.words.fill(0, this.length, at);
    this.words.set(some, at);
    this.length = end;
    return at;
  }
  /** Indices into the piece's own vertices, and which of the mesh those are. */
  private indicesOf(numbers: Uint32Array, piece: number): { indices: Uint32Array; vertices: number[] } {
    const indices = new Uint32Array(numbers.length * 3);
    const vertices: number[] = [];
    numbers.forEach((n, local) => {
      for (let c = 0; c < 3; c++) {
        const v = this.mesh.indices[n * 3 + c]!;
        if (this.placedIn[v] !== piece) {
          this.placedIn[v] = piece;
          this.places[v] = vertices.push(v) - 1;
        }
        indices[local * 3 + c] = this.places[v]!;
      }
    });
    return { indices, vertices };
  }
  private bytesOf(
    counts: PieceCounts,
    structure: Uint32Array,
    indices: Uint32Array,
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
