// Files of a cache: made once, read in parts. One is whole or not there at all.
import { randomUUID } from 'node:crypto';
import { open, rename, rm, statfs } from 'node:fs/promises';
import { dirname } from 'node:path';
import { EngineError } from '@variscen/engine';

export const UNFINISHED = '.new';
/** Stays free on the disk: the queue stands still where little is, and a cache must not be why. */
const LEAST_FREE_BYTES = 2 ** 30;

/** Writes parts one after another, so that they need not be in memory together. @throws where it cannot be kept */
export async function keepFile(path: string, bytes: number, parts: Iterable<Uint8Array>): Promise<void> {
  const temporary = `${path}-${randomUUID()}${UNFINISHED}`;
  try {
    const { bavail, bsize } = await statfs(dirname(path));
    if (bavail * bsize - bytes < LEAST_FREE_BYTES) throw new Error('little is free on the disk');
    const file = await open(temporary, 'wx');
    try {
      for (const part of parts) await file.writeFile(part);
      await file.sync();
    } finally {
      await file.close();
    }
    await rename(temporary, path);
  } catch (e) {
    await rm(temporary, { force: true }).catch(() => undefined);
    throw e;
  }
}

/** @throws where the file ends before */
export async function readPart(path: string, from: number, bytes: number): Promise<Uint8Array> {
  const file = await open(path);
  try {
    const out = new Uint8Array(bytes);
    const { bytesRead } = await file.read(out, 0, bytes, from);
    if (bytesRead < bytes) throw new Error('it is cut short');
    return out;
  } finally {
    await file.close();
  }
}

/**
 * Reads parts of a kept file; a damaged one is dropped, and made again by the next attempt.
 * @param what it is, as messages name it
 */
export function partReader(
  path: string,
  code: 'BAD_MESH' | 'BAD_TEXTURE',
  what: string,
): (from: number, bytes: number) => Promise<Uint8Array> {
  let fault: EngineError | undefined;
  return async (from, bytes) => {
    try {
      return await readPart(path, from, bytes);
    } catch (e) {
      const why = e instanceof Error ? e.message : String(e);
      // others that are read at the same time do not find it any more: that is not why
      fault ??= new EngineError(code, `${what} cannot be read from this machine’s cache: ${why}. Try again.`);
      await rm(path, { force: true }).catch(() => undefined);
      throw fault;
    }
  };
}
