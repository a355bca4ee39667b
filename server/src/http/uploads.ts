// Bodies that are bytes: files that are there while something is made of them, and small pictures.
import { randomUUID } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { AppError } from '@variscen/contract';
import type { Request, Response } from 'express';
import type { DiskSpace } from '../files/diskSpace.ts';
import { limited } from '../files/limited.ts';

const MOST_FILE_BYTES = 2 * 2 ** 30;
const MOST_PICTURE_BYTES = 32 * 2 ** 20;

/** Of what is uploaded: as it came, and as it is stored. */
const COPIES = 2;

/** Aborted when nobody waits for an answer any more. */
export function leftBy(res: Response): AbortSignal {
  const left = new AbortController();
  res.on('close', () => {
    if (!res.writableEnded) left.abort();
  });
  return left.signal;
}

export class Uploads {
  constructor(
    private readonly folder: string,
    private readonly disk: DiskSpace,
  ) {}

  /** Streams a body into a file that is there while it is worked on; what was sent by half is gone at once. */
  received<T>(
    { req, res }: { req: Request; res: Response },
    fileName: string,
    work: (file: string, signal: AbortSignal) => Promise<T>,
    mostBytes = MOST_FILE_BYTES,
  ): Promise<T> {
    // what says that it is too large, or more than there is space for, is refused before any of it is read
    const announced = Number(req.get('content-length') ?? 0);
    if (announced > mostBytes) throw tooLarge(fileName, mostBytes);
    return this.withFile(res, async (file, signal) => {
      await this.disk.need(announced * COPIES);
      await pipeline(req, limited(mostBytes), createWriteStream(file), { signal });
      if ((await stat(file)).size === 0) throw new AppError('IMPORT_FAILED', `“${fileName}” is empty.`);
      return work(file, signal);
    });
  }

  /** Makes a file and answers with it. @param make returns its size, bytes */
  sent(
    res: Response,
    { mediaType, fileName }: { mediaType: string; fileName: string },
    make: (file: string, signal: AbortSignal) => Promise<number>,
  ): Promise<void> {
    return this.withFile(res, async (file, signal) => {
      const bytes = await make(file, signal);
      // any name, as RFC 6266 has it
      res.attachment(fileName).type(mediaType);
      res.set({ 'Content-Length': String(bytes), 'Cache-Control': 'no-store' });
      await pipeline(createReadStream(file), res);
    });
  }

  /** A place for a file, free again at the end; the signal says when nobody waits for the answer any more. */
  private async withFile<T>(res: Response, work: (file: string, signal: AbortSignal) => Promise<T>): Promise<T> {
    const file = join(this.folder, randomUUID());
    const left = leftBy(res);
    try {
      await mkdir(this.folder, { recursive: true });
      return await work(file, left);
    } finally {
      await rm(file, { force: true });
    }
  }
}

function tooLarge(fileName: string, mostBytes: number): AppError {
  return new AppError(
    'TOO_LARGE',
    `“${fileName}” is larger than ${Math.round(mostBytes / 1e6)} MB.`,
    'Save it smaller.',
  );
}

/** A small picture, in memory. @throws AppError TOO_LARGE */
export async function pictureOf(req: Request): Promise<Uint8Array> {
  const chunks: Buffer[] = [];
  let size = 0;
  for await (const chunk of req as AsyncIterable<Buffer>) {
    size += chunk.length;
    if (size > MOST_PICTURE_BYTES) throw new AppError('TOO_LARGE', 'The picture is larger than 32 MiB.');
    chunks.push(chunk);
  }
  return Buffer.concat(chunks);
}
