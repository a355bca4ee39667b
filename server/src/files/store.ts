// Assets on disk, by the hash of their bytes. Everything is written under a temporary name, then renamed, so that
// nothing is ever there by half.
import { createHash, randomUUID } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { access, mkdir, readFile, rename, rm, stat, utimes, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { AppError } from '@variscen/contract/errors';
import type { NotSound } from '../work/looksTasks.ts';

/** Content that this process has compared with its hash: as it was read, and by the file's time and size. */
const sound = new Set<string>();
const checked = new Map<string, string>();

const notWhole = (hash: string, what: string) =>
  new AppError(
    'DAMAGED',
    `The stored file ${hash.slice(0, 12)}… ${what}.`,
    'Import what it came from again, or restore the data folder from a copy.',
  );
export async function hashOfFile(path: string): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(path), hash);
  return hash.digest('hex');
}

export const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

export class AssetStore {
  constructor(private readonly root: string) {}
  path(hash: string): string {
    if (!/^[0-9a-f]{64}$/.test(hash)) throw new AppError('INVALID', 'That is not a content hash.');
    return join(this.root, hash.slice(0, 2), hash);
  }
  async put(bytes: Uint8Array): Promise<string> {
    const hash = sha256(bytes);
    const path = this.path(hash);
    // what is there already counts as stored now: nobody removes it before it is referred to
    if (await exists(path)) await utimes(path, new Date(), new Date());
    else await writeWhole(path, bytes);
    return hash;
  }
  /** A place where one task puts what it makes until all of it is there: kept whole or dropped. */
  stage(id: string): StagedAssets {
    return new StagedAssets(this, join(this.root, STAGING, id));
  }
  /** What tasks left behind that never ended. */
  async dropStages(): Promise<void> {
    await rm(join(this.root, STAGING), { recursive: true, force: true });
  }
  /** What is stored, compared with its hash when this process first reads it. */
  async get(hash: string): Promise<Uint8Array> {
    const bytes = await readFile(this.path(hash)).catch((e: NodeJS.ErrnoException) => {
      if (e.code !== 'ENOENT') throw e;
      throw notWhole(hash, 'is missing from the data folder');
    });
    if (!sound.has(hash)) {
      if (sha256(bytes) !== hash) throw notWhole(hash, 'is damaged: it is not what was stored');
      sound.add(hash);
    }
    return bytes;
  }
  /** Whether it is there and as it was stored. Reads it unless that was found before and the file was not touched. */
  async check(hash: string): Promise<'sound' | 'gone' | 'damaged'> {
    const path = this.path(hash);
    const about = await stat(path).catch(() => null);
    if (!about) return 'gone';
    const seen = `${about.mtimeMs} ${about.size}`;
    if (checked.get(hash) === seen) return 'sound';
    if ((await hashOfFile(path)) !== hash) return 'damaged';
    checked.set(hash, seen);
    return 'sound';
  }
}

/** Of some content what is gone or damaged. */
export async function notSoundOf(store: AssetStore, hashes: readonly string[]): Promise<NotSound[]> {
  const out: NotSound[] = [];
  for (const hash of new Set(hashes)) {
    const found = await store.check(hash);
    if (found !== 'sound') out.push({ hash, fault: found });
  }
  return out;
}

const STAGING = '.incoming';
const AT_ONCE = 16;
export class StagedAssets {
  private readonly made = new Set<string>();
  private ready: Promise<unknown> | undefined;
  constructor(
    private readonly store: AssetStore,
    readonly folder: string,
  ) {}

  async put(hash: string, bytes: Uint8Array): Promise<void> {
    if (this.made.has(hash)) return;
    this.made.add(hash);
    await (this.ready ??= mkdir(this.folder, { recursive: true }));
    await writeFile(join(this.folder, hash), bytes);
  }
  /** Moves everything to its place; what is there already stays. */
  async commit(): Promise<void> {
    const folders = new Set([...this.made].map((h) => dirname(this.store.path(h))));
    for (const f of folders) await mkdir(f, { recursive: true });
    const queue = [...this.made];
    const one = async () => {
      for (let h = queue.pop(); h !== undefined; h = queue.pop())
        await rename(join(this.folder, h), this.store.path(h));
    };
    await Promise.all(Array.from({ length: AT_ONCE }, one));
  }
  async drop(): Promise<void> {
    await rm(this.folder, { recursive: true, force: true });
  }
}

const exists = (path: string): Promise<boolean> =>
  access(path).then(
    () => true,
    () => false,
  );
async function writeWhole(path: string, bytes: Uint8Array): Promise<void> {
  await mkdir(dirname(path), { recursive: true });
  const temporary = `${path}.${randomUUID()}.part`;
  try {
    await writeFile(temporary, bytes);
    await rename(temporary, path);
  } catch (e) {
    await rm(temporary, { force: true });
    throw e;
  }
}
