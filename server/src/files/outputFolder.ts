// Rendered files on disk. What a node sends is put aside, whole and flushed, and is then linked to its place: never
// over a file, never out of the folder.
//   <root>/.unfinished/<trace>/<attempt>/0.exr …;  <root>/<path that the plan promised>
import { randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import { copyFile, constants, link, lstat, mkdir, open, readdir, realpath, rm, stat } from 'node:fs/promises';
import { dirname, join, posix, relative, resolve, sep } from 'node:path';
import type { Readable } from 'node:stream';
import { AppError, type FileFault, type Render } from '@variscen/contract';
import { hashOfFile } from './store.ts';
import { asRefusal } from './diskFaults.ts';
import { receiveFile } from './receiveFile.ts';
import { writeFlushed } from './writeFlushed.ts';

const UNFINISHED = '.unfinished';
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
  constructor(readonly root: string) {}

  /** Absolute path of a relative one. @throws AppError INVALID where its words lead out of the folder */
  resolve(path: string): string {
    const full = resolve(this.root, path);
    if (!full.startsWith(resolve(this.root) + sep))
      throw new AppError('INVALID', `“${path}” leads out of the output folder.`);
    return full;
  }

  exists(path: string): boolean {
    return existsSync(this.resolve(path));
  }

  /**
   * Of paths without extensions, in lower case, those beside which a file with one of the extensions lies, however its
   * letters are written. Every folder is read once.
   */
  async takenAmong(paths: readonly string[], extensions: readonly string[]): Promise<ReadonlySet<string>> {
    const there = new Set<string>();
    for (const folder of new Set(paths.map((path) => posix.dirname(path))))
      for (const name of await this.namesIn(folder)) there.add(posix.join(folder, name).toLowerCase());
    const lower = paths.map((path) => posix.normalize(path).toLowerCase());
    return new Set(lower.filter((path) => extensions.some((e) => there.has(path + e))));
  }
  private async namesIn(folder: string): Promise<readonly string[]> {
    try {
      return await readdir(dirname(this.resolve(posix.join(folder, 'any'))));
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

  async has(file: AsideFile): Promise<boolean> {
    return stat(this.aside(file)).then(
      () => true,
      () => false,
    );
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
    const full = this.resolve(path);
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

  async dropAside(traceId: string): Promise<void> {
    await rm(join(this.root, UNFINISHED, traceId), { recursive: true, force: true });
  }

  private async mustBeWithin(real: string, path: string): Promise<void> {
    const way = relative(await realpath(this.root), real);
    if (way.startsWith('..') || resolve(way) === way)
      throw new AppError(
        'NOT_STORED',
        `A link on the way to “${path}” leads out of the output folder.`,
        'Remove the link, then try again.',
      );
  }
}

/** Links, or copies where the disk has no links. @throws EEXIST where there is a file already */
async function linked(from: string, to: string): Promise<void> {
  try {
    await link(from, to);
  } catch (e) {
    if (!['EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'EMLINK', 'ENOSYS'].includes((e as NodeJS.ErrnoException).code ?? ''))
      throw e;
    const temporary = `${from}.${randomUUID()}.part`;
    await copyFile(from, temporary);
    await copyFile(temporary, to, constants.COPYFILE_EXCL);
    await rm(temporary, { force: true });
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
