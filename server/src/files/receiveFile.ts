// A file that arrives as a stream: whole and flushed at its place, or not there at all.
import { createHash, randomUUID } from 'node:crypto';
import { type WriteStream, createWriteStream } from 'node:fs';
import { mkdir, rename, rm } from 'node:fs/promises';
import { dirname } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { asRefusal } from './diskFaults.ts';
import { limited } from './limited.ts';

/**
 * @param name what messages call it
 * @returns the hash of its bytes
 * @throws AppError NOT_STORED where the disk does not take it, TOO_LARGE
 */
export async function receiveFile(path: string, bytes: Readable, mostBytes: number, name: string): Promise<string> {
  const temporary = `${path}.${randomUUID()}.part`;
  const hash = createHash('sha256');
  const hashed = async function* (chunks: AsyncIterable<Uint8Array>) {
    for await (const chunk of chunks) {
      hash.update(chunk);
      yield chunk;
    }
  };
  bytes.on('error', () => undefined); // what ends before it is waited for is told by the pipeline
  await mkdir(dirname(path), { recursive: true }).catch((e: unknown) => {
    throw asRefusal(e, name);
  });
  const file = createWriteStream(temporary, { flags: 'wx', flush: true });
  try {
    await pipeline(bytes, limited(mostBytes), hashed, file);
    await rename(temporary, path);
    return hash.digest('hex');
  } catch (e) {
    await closed(file); // one that is only being opened would be made after it was removed
    await rm(temporary, { force: true });
    throw asRefusal(e, name);
  }
}
async function closed(file: WriteStream): Promise<void> {
  if (file.closed) return;
  await new Promise<void>((resolve) => {
    file.once('close', resolve);
    file.destroy();
  });
}
