// Pieces of stored meshes. A mesh's trunk is in memory for good. Where a piece is out, the trunk's references to it are
// its stub; where it is in, they are what the stub stands for. One aligned word is written at a time, after what it
// refers to.
import * as K from '../kernel/layout/index.ts';
import type { Loadable } from './loadable.ts';
import type { MeshPlace } from './memoryPlaces.ts';
import type { StoredMesh, StoredPiece } from './scene.ts';
import { type PiecePlaces, pieceBytes, putPiece, putTrunk, stubOf } from './storedMesh.ts';

/** Writes the mesh's trunk. @returns its pieces, all of them out */
export function meshPieces(memory: WebAssembly.Memory, mesh: StoredMesh, place: MeshPlace): Loadable[] {
  const { stubs, places } = place.stored!;
  putTrunk(mesh.head, memory.buffer, place.acceleration, stubs);
  return mesh.head.pieces.map((about, number) => {
    const piece = new MeshPiece(memory, mesh, place, about, places[number]!, stubOf(stubs, number), number);
    piece.clear();
    return piece;
  });
}

class MeshPiece implements Loadable {
  readonly kind = 'mesh';
  readonly bytes: number;
  readonly wantedWord: number;
  readonly usedWord: number;
  /** Of the record of where its parts are. */
  private readonly geometry: number;

  constructor(
    private readonly memory: WebAssembly.Memory,
    private readonly mesh: StoredMesh,
    private readonly place: MeshPlace,
    private readonly about: StoredPiece,
    private readonly places: PiecePlaces,
    /** What its links hold while it is out. */
    private readonly stub: number,
    number: number,
  ) {
    this.bytes = places.bytes;
    this.geometry = place.geometry + number * K.GEOM.BYTES;
    this.wantedWord = ((stub & ~K.REF.MASK) + K.STUB.WANTED) >>> 2;
    this.usedWord = (this.geometry + K.GEOM.USED) >>> 2;
  }
  /** As before anything reached it. */
  clear(): void {
    const words = this.words;
    for (const word of [
      this.wantedWord,
      ((this.stub & ~K.REF.MASK) + K.STUB.LEFT_OUT) >>> 2,
      this.usedWord,
      this.atWord,
    ])
      Atomics.store(words, word, 0);
  }

  read(): Promise<Uint8Array> {
    return this.mesh.read(this.about.from, pieceBytes(this.about, this.mesh.head));
  }
  put(bytes: Uint8Array, at: number): void {
    const references = putPiece(bytes, this.mesh.head, this.about, this.places, this.memory.buffer, at);
    const { acceleration, normals, uv0, uv1, colors, indices } = this.places.at;
    const there = (offset: number | undefined) => (offset === undefined ? 0 : at + offset);
    const words = this.words;
    words.set([there(normals), there(uv0), there(uv1), there(colors), there(indices)], this.geometry >>> 2);
    words[this.atWord] = there(acceleration);
    this.link(references);
  }
  takeOut(): void {
    this.link(this.about.links.map(() => this.stub));
    this.words[this.atWord] = 0;
  }
  private link(references: readonly number[]): void {
    const words = this.words;
    this.about.links.forEach(({ word }, i) =>
      Atomics.store(words, (this.place.acceleration >>> 2) + word, references[i]!),
    );
  }
  private get atWord(): number {
    return (this.geometry + K.GEOM.AT) >>> 2;
  }
  private get words(): Uint32Array {
    return new Uint32Array(this.memory.buffer);
  }
}
