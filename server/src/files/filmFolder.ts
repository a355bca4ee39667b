// Films of slices, each of one attempt, until their trace is finished.
//   <folder>/<trace>/<slice>.<attempt>
import { mkdir, readdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { receiveFile } from './receiveFile.ts';

/** A film of 4 GiB is the most that an engine holds. */
const MOST_BYTES = 2 ** 32;

export interface SliceFilm {
  readonly traceId: string;
  readonly sliceId: string;
  readonly token: string;
}

export class FilmFolder {
  constructor(private readonly root: string) {}

  path({ traceId, sliceId, token }: SliceFilm): string {
    return join(this.root, traceId, `${sliceId}.${token}`);
  }
  /** @returns the hash of its bytes. @throws AppError NOT_STORED, TOO_LARGE */
  put(film: SliceFilm, bytes: Readable): Promise<string> {
    return receiveFile(this.path(film), bytes, MOST_BYTES, 'The film of a slice');
  }
  async drop(traceId: string): Promise<void> {
    await rm(join(this.root, traceId), { recursive: true, force: true });
  }
  /** The traces that have films here. */
  async traces(): Promise<string[]> {
    await mkdir(this.root, { recursive: true });
    return readdir(this.root);
  }
}
