// Pieces of stored meshes. A mesh's trunk is in memory for good. Where a piece is out, the trunk's references to it are
// its stub; where it is in, they are what the stub stands for. One aligned word is written at a time, after what it
// refers to.
import * as K from '../kernel/layout/index.ts';
import type { Loadable } from './loadable.ts';
import type { MeshPlace } from './memoryPlaces.ts';
import type { LeftOutPieces, StoredMesh, StoredPiece } from './scene.ts';
import { BASE, type PiecePlaces, piecePlaces, putPiece, putTrunk, stubOf } from './storedMesh.ts';
import type { HeldViews } from './views.ts';

/**
 * Writes the mesh's trunk. @returns its pieces, all of them out
 * @param first number of its first piece among all of the job
 * @param leaveOut gives the next number of what is left out, to a name and how bright it may be
 */
export function meshPieces(
  views: HeldViews,
  mesh: StoredMesh,
  place: MeshPlace,
  first: number,
  leaveOut: (of: LeftOutPieces) => LeftOutStub,
): MeshPiece[] {
  const { stubs, places } = place.stored!;
  putTrunk(mesh.head, views.u32, place.acceleration, stubs);
  return mesh.head.pieces.map((about, number) => {
    const piece = new MeshPiece(views, mesh, place, about, places[number]!, stubOf(stubs, number), number);
    piece.clear(first + number);
    if (mesh.leftOut?.isLeftOut(number)) piece.leaveOut(leaveOut(mesh.leftOut));
    return piece;
  });
}
/** As rays that pass it will tell. */
export interface LeftOutStub {
  readonly number: number;
  /** Negative: only likely. */
  readonly brightness: number;
}

const NODE_WORDS = K.NODE.BYTES / 4;

export class MeshPiece implements Loadable {
  readonly kind = 'mesh';
  readonly bytes: number;
  readonly wantedWord: number;
  readonly usedWord: number;
  /** Of the record of where its parts are, and there of where the piece is. */
  private readonly geometry: number;
  private readonly atWord: number;
  /** Where its parts stand in the file. */
  private readonly whole: PiecePlaces;

  constructor(
    private readonly views: HeldViews,
    private readonly mesh: StoredMesh,
    private readonly place: MeshPlace,
    private readonly about: StoredPiece,
    private readonly places: PiecePlaces,
    /** What its links hold while it is out. */
    private readonly stub: number,
    number: number,
  ) {
    this.bytes = places.bytes;
    this.whole = piecePlaces(about, mesh.head);
    this.geometry = place.geometry + number * K.GEOM.BYTES;
    this.atWord = (this.geometry + K.GEOM.AT) >>> 2;
    this.wantedWord = ((stub & ~K.REF.MASK) + K.STUB.WANTED) >>> 2;
    this.usedWord = (this.geometry + K.GEOM.USED) >>> 2;
  }
  /** As before anything reached it. @param number among all of the job */
  clear(number: number): void {
    const { u32 } = this.views;
    for (const word of [this.wantedWord, this.stubWord(K.STUB.LEFT_OUT), this.usedWord, this.atWord])
      Atomics.store(u32, word, 0);
    u32[(this.geometry + K.GEOM.PIECE) >>> 2] = number;
  }
  /** Rays pass its stub from now on. */
  leaveOut({ number, brightness }: LeftOutStub): void {
    const { u32, f32 } = this.views;
    u32[this.stubWord(K.STUB.LEFT_OUT)] = number;
    f32[this.stubWord(K.STUB.BRIGHTNESS)] = brightness;
    f32.set(this.box(), this.stubWord(K.STUB.BOX));
  }
  private stubWord(offset: number): number {
    return ((this.stub & ~K.REF.MASK) + offset) >>> 2;
  }
  /** Of all that its links refer to, as the trunk's nodes have it: least x y z, most x y z. */
  private box(): number[] {
    const { f32 } = this.views;
    const box = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
    for (const { word } of this.about.links) {
      const node = (this.place.acceleration >>> 2) + word - (word % NODE_WORDS);
      const child = (word % NODE_WORDS) - K.NODE.REF / 4;
      for (let axis = 0; axis < 3; axis++) {
        box[axis] = Math.min(box[axis]!, f32[node + axis * 4 + child]!);
        box[axis + 3] = Math.max(box[axis + 3]!, f32[node + 12 + axis * 4 + child]!);
      }
    }
    return box;
  }

  read(): Promise<Uint8Array> {
    return this.mesh.read(this.about.from, this.whole.bytes);
  }
  put(bytes: Uint8Array, at: number): void {
    const { views, places, about } = this;
    const structure = putPiece(bytes, about, this.whole, places, views, at);
    const { u32 } = views;
    const { normals, uv0, uv1, colors, indices } = places.at;
    const there = (offset: number | undefined) => (offset === undefined ? 0 : at + offset);
    const word = this.geometry >>> 2;
    u32[word + K.GEOM.NORMALS / 4] = there(normals);
    u32[word + K.GEOM.UV0 / 4] = there(uv0);
    u32[word + K.GEOM.UV1 / 4] = there(uv1);
    u32[word + K.GEOM.COLORS / 4] = there(colors);
    u32[word + K.GEOM.INDICES / 4] = there(indices);
    u32[this.atWord] = structure;
    for (const link of about.links) this.link(link.word, link.reference - BASE + structure);
  }
  takeOut(): void {
    for (const { word } of this.about.links) this.link(word, this.stub);
    this.views.u32[this.atWord] = 0;
  }
  private link(word: number, reference: number): void {
    Atomics.store(this.views.u32, (this.place.acceleration >>> 2) + word, reference);
  }
}
