// Built acceleration structures kept from one job to the next, by the content hash of their mesh: copied and moved to
// their place instead of built again.
// Least recently used go first when there is no room.
import * as K from '../kernel/layout/index.ts';

interface Kept {
  readonly bytes: Uint8Array;
  /** Where in bytes each node stands. */
  readonly nodes: Uint32Array;
  readonly root: number;
  readonly builtAt: number;
}

export class MeshCache {
  /** In order of last use, the oldest first. */
  private readonly kept = new Map<string, Kept>();
  private used = 0;
  constructor(private limitBytes: number) {}

  get bytes(): number {
    return this.used;
  }
  get size(): number {
    return this.kept.size;
  }

  /** Makes room: what was used longest ago is dropped until no more than this is held. */
  limit(bytes: number): void {
    this.limitBytes = Math.max(0, bytes);
    this.shrink();
  }
  private shrink(): void {
    for (const [key, k] of this.kept) {
      if (this.used <= this.limitBytes) return;
      this.kept.delete(key);
      this.used -= costOf(k);
    }
  }

  /** Keeps the structure that stands at `from` … `from + length` of the engine's memory, with its root there. */
  put(key: string, memory: ArrayBufferLike, from: number, length: number, root: number): void {
    if (this.kept.has(key) || length > this.limitBytes) return;
    const bytes = new Uint8Array(memory, from, length).slice();
    const words = new Uint32Array(bytes.buffer);
    const nodes: number[] = [root - from];
    for (let i = 0; i < nodes.length; i++)
      for (let c = 0; c < 4; c++) {
        const ref = words[(nodes[i]! + K.NODE.REF) / 4 + c]!;
        if (ref && (ref & K.REF.MASK) === 0) nodes.push(ref - from);
      }
    const k = { bytes, nodes: Uint32Array.from(nodes), root: root - from, builtAt: from };
    this.kept.set(key, k);
    this.used += costOf(k);
    this.shrink();
  }

  /** Copies a kept structure of so many bytes to `at`, and returns its root there; undefined where there is none. */
  take(key: string, memory: ArrayBufferLike, at: number, length: number): number | undefined {
    const k = this.kept.get(key);
    if (!k || k.bytes.length !== length) return undefined;
    this.kept.delete(key);
    this.kept.set(key, k);
    new Uint8Array(memory, at, length).set(k.bytes);
    const words = new Uint32Array(memory, at, length >>> 2);
    const delta = at - k.builtAt;
    for (const node of k.nodes)
      for (let c = 0; c < 4; c++) {
        const q = (node + K.NODE.REF) / 4 + c;
        if (words[q]) words[q] = words[q]! + delta;
      }
    return at + k.root;
  }
}
const costOf = (k: Kept): number => k.bytes.length + k.nodes.byteLength;
