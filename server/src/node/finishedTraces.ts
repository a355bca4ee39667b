// Traces that this node has finished and the server has not stored yet, on the node's own disk. What is here is whole,
// and stays until the server has it or says that nobody wants it:
// a lost connection, a restarted server, a full disk there or the end of this process cost no tracing.
//   <folder>/<trace>/result.json, 0.exr, 0.png, 0.thumbnail, 1.exr …;  <folder>/<trace>.<random>.part while it is
// written
import { randomUUID } from 'node:crypto';
import { constants } from 'node:fs';
import { access, mkdir, open, readFile, readdir, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { type RenderFileKind, type TraceResult, idSchema } from '@variscen/contract';
import { writeFlushed } from '../files/writeFlushed.ts';

const PART = '.part';
const RESULT = 'result.json';

/** What a trace came to, but for the attempt that delivers it. */
export type FinishedResult = Omit<TraceResult, 'token'>;

export interface FinishedTrace {
  readonly result: FinishedResult;
  /** Path of a finished file. */
  file(cell: number, kind: RenderFileKind): string;
}

export class FinishedTraces {
  constructor(private readonly folder: string) {}

  /**
   * What an earlier process left half-written goes; what is whole stays. @throws where the folder cannot be written to
   */
  async open(): Promise<void> {
    await mkdir(this.folder, { recursive: true });
    await access(this.folder, constants.W_OK);
    for (const name of await readdir(this.folder)) {
      if (name.endsWith(PART)) await rm(join(this.folder, name), { recursive: true, force: true });
    }
  }

  /** The traces that are held, by id. Anything else that somebody has put there is left alone. */
  async held(): Promise<string[]> {
    return (await readdir(this.folder)).filter((name) => idSchema.safeParse(name).success);
  }

  /** A finished trace, or null where none of this id is held. */
  async get(traceId: string): Promise<FinishedTrace | null> {
    const folder = join(this.folder, traceId);
    const text = await readFile(join(folder, RESULT), 'utf8').catch((e: NodeJS.ErrnoException) => {
      if (e.code === 'ENOENT') return null;
      throw e;
    });
    return text === null
      ? null
      : { result: JSON.parse(text) as FinishedResult, file: (cell, kind) => join(folder, `${cell}.${kind}`) };
  }

  /**
   * Has the files written into a folder of their own, which becomes the finished trace when all of them and the result
   * are on the disk.
   */
  async add(
    traceId: string,
    write: (fileOf: FinishedTrace['file']) => Promise<FinishedResult>,
  ): Promise<FinishedTrace> {
    const part = join(this.folder, `${traceId}.${randomUUID()}${PART}`);
    const whole = join(this.folder, traceId);
    await mkdir(part, { recursive: true });
    try {
      const result = await write((cell, kind) => join(part, `${cell}.${kind}`));
      await writeFlushed(join(part, RESULT), JSON.stringify(result));
      await flushFolder(part);
      await rm(whole, { recursive: true, force: true }); // an older one that could not be read
      await rename(part, whole);
      await flushFolder(this.folder);
      return { result, file: (cell, kind) => join(whole, `${cell}.${kind}`) };
    } catch (e) {
      await rm(part, { recursive: true, force: true });
      throw e;
    }
  }

  async drop(traceId: string): Promise<void> {
    await rm(join(this.folder, traceId), { recursive: true, force: true });
  }
}

async function flushFolder(path: string): Promise<void> {
  const folder = await open(path, 'r');
  try {
    await folder.sync();
  } finally {
    await folder.close();
  }
}
