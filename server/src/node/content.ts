// Where a node has a scene's content from: meshes, textures, maps, by the hash of their bytes. On the machine that
// Variscen runs on it reads the server's own files; elsewhere it keeps what it has fetched on its disk, so that a scene
// travels once and not with every trace.
import { rm, utimes } from 'node:fs/promises';
import pLimit from 'p-limit';
import type { AssetStore } from '../files/store.ts';
import { trimFolder } from '../files/trimFolder.ts';

export interface Content {
  /** Compared with its hash. @throws ServerRefusal where the server has it not, or not as it was stored */
  get(hash: string, signal?: AbortSignal): Promise<Uint8Array>;
}

/** The server's own files; what is not as it should be is asked of the server, which says what is wrong. */
export class SharedContent implements Content {
  constructor(
    private readonly store: AssetStore,
    private readonly server: Content,
  ) {}
  async get(hash: string, signal?: AbortSignal): Promise<Uint8Array> {
    return this.store.get(hash).catch(() => this.server.get(hash, signal));
  }
}

/** Connections to the server at once. */
const AT_ONCE = 6;

export class CachedContent implements Content {
  private readonly limit = pLimit(AT_ONCE);
  private readonly coming = new Map<string, Promise<Uint8Array>>();

  /**
   * @param folder where the store keeps its files
   * @param mostBytes of what is kept when a trace begins; what was not used for longest goes
   */
  constructor(
    private readonly store: AssetStore,
    private readonly folder: string,
    private readonly server: Content,
    private readonly mostBytes: number,
    private readonly log: (message: string) => void,
  ) {}

  get(hash: string, signal?: AbortSignal): Promise<Uint8Array> {
    let coming = this.coming.get(hash);
    if (!coming) {
      coming = this.read(hash, signal).finally(() => this.coming.delete(hash));
      this.coming.set(hash, coming);
    }
    return coming;
  }

  private async read(hash: string, signal?: AbortSignal): Promise<Uint8Array> {
    const path = this.store.path(hash);
    try {
      const bytes = await this.store.get(hash);
      const now = new Date();
      await utimes(path, now, now).catch(() => undefined);
      return bytes;
    } catch {
      await rm(path, { force: true }).catch(() => undefined); // damaged: it comes again
    }
    const bytes = await this.limit(() => this.server.get(hash, signal));
    await this.store.put(bytes).catch((e: unknown) => {
      // it is rendered all the same, and travels again next time
      this.log(`Content cannot be kept in ${this.folder}: ${e instanceof Error ? e.message : String(e)}`);
    });
    return bytes;
  }

  /** Makes room. To be called while nothing is rendered. */
  trim(): Promise<void> {
    return trimFolder(this.folder, this.mostBytes);
  }
}
