// What is loaded into engine memory when something reaches it, and may be taken out again: a piece of a mesh, a level
// of a texture.
export interface Loadable {
  readonly bytes: number;
  /** What it counts as, where bytes are told apart. */
  readonly kind: 'mesh' | 'texture';
  /** The words by which the kernel asks for it, and counts how often it was met. */
  readonly wantedWord: number;
  readonly usedWord: number;
  readonly read: () => Promise<Uint8Array>;
  /** Writes what was read to an address, and then that it is there. Threads may trace meanwhile. */
  readonly put: (bytes: Uint8Array, at: number) => void;
  /** Says that it is gone. No thread traces. */
  readonly takeOut: () => void;
}
