// What an import gathers on its way: bytes that the document refers to, remarks, and work that is waited for.
import type { ImportFault } from '../scene/index.ts';

/** Blobs handed over and meshes measured before they are waited for. */
const AT_ONCE = 24;

interface Keeping {
  /** Content hash, hex. */
  readonly hash: (bytes: Uint8Array) => string;
  readonly keep?: (hash: string, bytes: Uint8Array) => void | Promise<void>;
}

export class Gathered {
  /** What nobody took over. */
  readonly blobs = new Map<string, Uint8Array>();
  private waiting: Promise<void>[] = [];

  constructor(
    readonly faults: ImportFault[],
    private readonly options: Keeping,
  ) {}

  /** Answers with the content hash by which the document refers to it. */
  keep = (bytes: Uint8Array): string => {
    const blob = this.options.hash(bytes);
    if (this.options.keep) this.wait(Promise.resolve(this.options.keep(blob, bytes)));
    else this.blobs.set(blob, bytes);
    return blob;
  };
  fault(kind: ImportFault['kind'], subject: string, message: string): void {
    this.faults.push({ kind, subject, message });
  }
  wait(work: Promise<void>): void {
    this.waiting.push(work);
  }
  /** Waits where much is under way. */
  async ease(): Promise<void> {
    if (this.waiting.length >= AT_ONCE) await this.settled();
  }
  async settled(): Promise<void> {
    const waiting = this.waiting;
    this.waiting = [];
    await Promise.all(waiting);
  }
}
