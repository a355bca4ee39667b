// Rendered files on disk. What a node sends is put aside, whole and flushed, and is then linked to its place: never
// over a file, never out of the folder.
//   <root>/.unfinished/<trace>/<attempt>/0.exr …;  <root>/<path that the plan promised>
import { randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import {
  access,
  copyFile,
  constants,
  link,
  lstat,
  mkdir,
  open,
  readdir,
  realpath,
  rename,
  rm,
  stat,
} from 'node:fs/promises';
import { dirname, join, posix, resolve, sep } from 'node:path';
import type { Readable } from 'node:stream';
import { AppError, type FileFault, type Render } from '@variscen/contract';
import { hashOfFile } from './store.ts';
import { asRefusal } from './diskFaults.ts';
import { receiveFile } from './receiveFile.ts';
import { writeFlushed } from './writeFlushed.ts';

const UNFINISHED = '.unfinished';
/** What was cleaned up, until it goes for good. */
const CLEANED = '.cleaned';
const NOTHING_THERE: ReadonlySet<unknown> = new Set(['ENOENT', 'ENOTDIR', 'ENAMETOOLONG']);
const COMPARED_BYTES = 2 ** 20;

/** A file of one attempt at a trace. */
export interface AsideFile {
  readonly traceId: string;
  readonly token: string;
  readonly name: string;
}

export type StoredFile = Pick<Render['files'][number], 'bytes' | 'sha256' | 'modifiedMs'>;

export class OutputFolder {
  /** The application's own first; then those that whoever started it allowed. */
  readonly roots: readonly string[];

  /** @param allowed absolute paths of folders below which pictures may go, too */
  constructor(
    readonly root: string,
    allowed: readonly string[] = [],
  ) {
    this.roots = [root, ...allowed].map((folder) => resolve(folder));
  }

  /**
   * Absolute path of one that is relative to the application's own folder, or absolute. @throws AppError INVALID where
   * it leads to no allowed folder
   */
  resolve(path: string): string {
    const full = resolve(this.root, path);
    if (!this.rootOf(full)) throw new AppError('INVALID', `“${path}” leads out of the output folder.`);
    return full;
  }
  private rootOf(full: string): string | undefined {
    return this.roots.find((root) => full.startsWith(root + sep));
  }

  /**
   * Why nothing can be put into a folder below an allowed one, in words; null where it can.
   * @param folder '': the own
   */
  async faultOfFolder(folder: string): Promise<string | null> {
    const full = resolve(this.root, folder);
    const root = this.roots.find((r) => full === r || full.startsWith(r + sep));
    if (root === undefined)
      return `The output folder “${folder}” is below none that is allowed: ${this.roots.join(', ')}. Take one of them, or start Variscen with --output-root for another.`;
    if (!(await isFolder(root))) return `The folder ${root} is not there. Make it, or connect its disk.`;
    const standing = await this.standing(folder);
    if (!(await isFolder(standing))) return `${standing} is a file, so that no folder can be made there.`;
    try {
      await access(standing, constants.W_OK | constants.X_OK);
      await this.mustBeWithin(await realpath(standing), folder);
      return null;
    } catch (e) {
      const refusal = asRefusal(e, standing);
      return refusal instanceof AppError ? refusal.message : `${standing} cannot be written to.`;
    }
  }

  /** The nearest to a folder that is there already: itself, or one that it would be made in. */
  async standing(folder: string): Promise<string> {
    let at = resolve(this.root, folder);
    while (!(await isThere(at)) && dirname(at) !== at) at = dirname(at);
    return at;
  }

  exists(path: string): boolean {
    const full = resolve(this.root, path);
    return this.rootOf(full) !== undefined && existsSync(full);
  }

  /** Of these files those that are there, however their letters are written. Every folder is read once. */
  async lyingAmong(files: readonly string[]): Promise<ReadonlySet<string>> {
    const there = new Set<string>();
    for (const folder of new Set(files.map((file) => posix.dirname(file))))
      for (const name of await this.namesIn(folder)) there.add(posix.join(folder, name).toLowerCase());
    return new Set(files.filter((file) => there.has(posix.normalize(file).toLowerCase())));
  }
  private async namesIn(folder: string): Promise<readonly string[]> {
    const full = resolve(this.root, folder);
    if (!this.rootOf(join(full, 'any'))) return []; // nothing is put there
    try {
      return await readdir(full);
    } catch (e) {
      if (NOTHING_THERE.has((e as { code?: unknown }).code)) return [];
      throw e;
    }
  }

  /**
   * Absolute path of a file to read. @throws AppError NOT_FOUND where it is gone, INVALID where a link leads out of the
   * folder
   */
  async toRead(path: string): Promise<string> {
    const full = await realpath(this.resolve(path)).catch(() => null);
    if (full === null)
      throw new AppError(
        'NOT_FOUND',
        `“${path}” is no longer in the output folder.`,
        'Put it back, or render the cell again.',
      );
    await this.mustBeWithin(full, path);
    return full;
  }

  private aside({ traceId, token, name }: AsideFile): string {
    return join(this.root, UNFINISHED, traceId, token, name);
  }

  /**
   * Takes a file as it arrives. One that arrives by half leaves nothing. @throws AppError NOT_STORED where the disk
   * does not take it
   */
  async putAside(file: AsideFile, bytes: Readable, mostBytes: number): Promise<void> {
    await receiveFile(this.aside(file), bytes, mostBytes, file.name);
  }

  /** Where a task of this machine may write one itself, as if it had been put aside. @throws AppError NOT_STORED */
  async asideFor(file: AsideFile): Promise<string> {
    const path = this.aside(file);
    try {
      await mkdir(dirname(path), { recursive: true });
    } catch (e) {
      throw asRefusal(e, file.name);
    }
    return path;
  }

  has(file: AsideFile): Promise<boolean> {
    return isThere(this.aside(file));
  }

  /**
   * Puts a file that was put aside to its place. It stays aside, too: publishing again
   * changes nothing.
   * A file that is there already is left as it is: fine where it holds the same bytes (an attempt that was cut short
   * has put it there).
   * @throws AppError NOT_STORED where another file is there, a link leads out of the folder, or the disk does not take
   * it
   */
  async publish(file: AsideFile, path: string): Promise<StoredFile> {
    const from = this.aside(file);
    const to = this.resolve(path);
    const sha256 = await hashOfFile(from);
    const stored = async (): Promise<StoredFile> => {
      const { size, mtimeMs } = await stat(to);
      return { bytes: size, sha256, modifiedMs: mtimeMs };
    };
    try {
      await realpath(this.rootOf(to)!); // what was a disk is not made anew as a folder of another
      await mkdir(dirname(to), { recursive: true });
      await this.mustBeWithin(await realpath(dirname(to)), path);
      await linked(from, to);
    } catch (e) {
      const isThere = (e as NodeJS.ErrnoException).code === 'EEXIST';
      if (isThere && (await sameBytes(from, to))) return await stored();
      if (isThere)
        throw new AppError(
          'NOT_STORED',
          `“${path}” was put there by something else meanwhile, and nothing is overwritten.`,
          'Move that file away, then deliver again: nothing is traced again.',
        );
      throw asRefusal(e, path);
    }
    return stored();
  }

  /** What became of a stored file: null where it is as it was stored. */
  async faultOf({
    path,
    bytes,
    sha256,
    modifiedMs,
  }: StoredFile & { readonly path: string }): Promise<FileFault['fault'] | null> {
    const full = resolve(this.root, path);
    if (!this.rootOf(full)) return 'gone'; // its folder is allowed no more
    const about = await stat(full).catch(() => null);
    if (!about?.isFile()) return 'gone';
    if (about.size !== bytes) return 'changed';
    if (modifiedMs === undefined || about.mtimeMs === modifiedMs || sha256 === undefined) return null;
    // touched since: what it holds decides, once for each time that it was touched
    const seen = `${full} ${about.mtimeMs}`;
    let same = this.compared.get(seen);
    if (same === undefined) {
      same = (await hashOfFile(full)) === sha256;
      this.compared.set(seen, same);
    }
    return same ? null : 'changed';
  }
  private readonly compared = new Map<string, boolean>();

  /** Writes a text beside pictures, under the next name that is free, and returns its path. */
  async keep(path: string, extension: string, text: string): Promise<string> {
    const folder = dirname(this.resolve(path));
    await mkdir(folder, { recursive: true });
    await this.mustBeWithin(await realpath(folder), path);
    for (let n = 1; ; n++) {
      const free = `${path}${n === 1 ? '' : `-${n}`}${extension}`;
      try {
        await writeFlushed(this.resolve(free), text);
        return free;
      } catch (e) {
        if ((e as NodeJS.ErrnoException).code !== 'EEXIST') throw asRefusal(e, free);
      }
    }
  }

  /** Puts a file of a picture out of the way, on its own disk. One that is gone already is fine. */
  async setAside(path: string, cleaningId: string): Promise<void> {
    const full = this.resolve(path);
    const to = this.setAsideAt(full, cleaningId);
    await mkdir(dirname(to), { recursive: true });
    await rename(full, to).catch((e: NodeJS.ErrnoException) => {
      if (!NOTHING_THERE.has(e.code)) throw asRefusal(e, path);
    });
  }
  /** @throws AppError NOT_STORED where something else lies in its place */
  async bringBack(path: string, cleaningId: string): Promise<void> {
    const full = this.resolve(path);
    const from = this.setAsideAt(full, cleaningId);
    if (!(await isThere(from))) return; // it was gone before, or is back
    try {
      await mkdir(dirname(full), { recursive: true });
      await linked(from, full);
    } catch (e) {
      throw (e as NodeJS.ErrnoException).code === 'EEXIST'
        ? new AppError(
            'NOT_STORED',
            `“${path}” was put there by something else meanwhile.`,
            'Move that file away, then undo again.',
          )
        : asRefusal(e, path);
    }
    await rm(from, { force: true });
  }
  async dropSetAside(cleaningId: string): Promise<void> {
    for (const root of this.roots) await rm(join(root, CLEANED, cleaningId), { recursive: true, force: true });
  }
  private setAsideAt(full: string, cleaningId: string): string {
    const root = this.rootOf(full)!;
    return join(root, CLEANED, cleaningId, full.slice(root.length + 1));
  }

  /** What an earlier run of the server left aside: nobody works on it any more. @param prefix of its ids */
  async dropLeftAside(prefix: string): Promise<void> {
    const left = await readdir(join(this.root, UNFINISHED)).catch((e: NodeJS.ErrnoException) => {
      if (NOTHING_THERE.has(e.code)) return [];
      throw e;
    });
    for (const id of left) if (id.startsWith(prefix)) await this.dropAside(id);
  }
  async dropAside(traceId: string): Promise<void> {
    await rm(join(this.root, UNFINISHED, traceId), { recursive: true, force: true });
  }

  private async mustBeWithin(real: string, path: string): Promise<void> {
    const roots = await Promise.all(this.roots.map((root) => realpath(root).catch(() => null)));
    if (!roots.some((root) => root !== null && (real === root || real.startsWith(root + sep))))
      throw new AppError(
        'NOT_STORED',
        `A link on the way to “${path}” leads out of the output folder.`,
        'Remove the link, then try again.',
      );
  }
}

const isThere = (path: string): Promise<boolean> =>
  stat(path).then(
    () => true,
    () => false,
  );
const isFolder = (path: string): Promise<boolean> =>
  stat(path).then(
    (about) => about.isDirectory(),
    () => false,
  );

/** Why a disk makes no link, so that a copy is made. */
const NO_LINK: ReadonlySet<unknown> = new Set(['EXDEV', 'EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'EMLINK', 'ENOSYS']);

/** Links, or copies to another disk or one that has no links. @throws EEXIST where there is a file already */
export async function linked(from: string, to: string): Promise<void> {
  try {
    await link(from, to);
  } catch (e) {
    if (!NO_LINK.has((e as NodeJS.ErrnoException).code)) throw e;
    await copied(from, to);
  }
}

/** Whole and flushed beside its place, then put there. */
async function copied(from: string, to: string): Promise<void> {
  if (existsSync(to)) throw Object.assign(new Error(`${to} is there.`), { code: 'EEXIST' });
  const temporary = join(dirname(to), `.${randomUUID()}.part`);
  try {
    await copyFile(from, temporary);
    await flush(temporary);
    await link(temporary, to).catch(async (e: NodeJS.ErrnoException) => {
      if (!NO_LINK.has(e.code)) throw e;
      await copyFile(temporary, to, constants.COPYFILE_EXCL);
      await flush(to);
    });
  } finally {
    await rm(temporary, { force: true });
  }
}
async function flush(path: string): Promise<void> {
  const file = await open(path, 'r+');
  try {
    await file.sync();
  } finally {
    await file.close();
  }
}

async function sameBytes(a: string, b: string): Promise<boolean> {
  if (!(await lstat(b)).isFile()) return false;
  const [from, to] = await Promise.all([open(a), open(b)]);
  try {
    const [x, y] = await Promise.all([from.stat(), to.stat()]);
    if (x.ino === y.ino && x.dev === y.dev) return true;
    if (x.size !== y.size) return false;
    const [left, right] = [Buffer.alloc(COMPARED_BYTES), Buffer.alloc(COMPARED_BYTES)];
    for (let at = 0; at < x.size; at += COMPARED_BYTES) {
      const [l, r] = await Promise.all([from.read(left, 0, COMPARED_BYTES, at), to.read(right, 0, COMPARED_BYTES, at)]);
      if (!left.subarray(0, l.bytesRead).equals(right.subarray(0, r.bytesRead))) return false;
    }
    return true;
  } finally {
    await Promise.all([from.close(), to.close()]);
  }
}
