import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { link, rm, stat } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { CommandError, EXIT } from './exit.ts';

/** Whole or not at all, and never over a file. @returns its bytes */
export async function writeNew(file: string, response: Response): Promise<number> {
  const part = `${file}.${randomUUID()}.part`;
  try {
    await pipeline(Readable.fromWeb(response.body as never), createWriteStream(part, { flags: 'wx', flush: true }));
    await link(part, file);
    return (await stat(file)).size;
  } catch (e) {
    const { code, message } = e as NodeJS.ErrnoException;
    if (code === 'EEXIST')
      throw new CommandError(EXIT.USAGE, `“${file}” is there already, and nothing is overwritten.`);
    throw new CommandError(EXIT.FAILED, `“${file}” cannot be written: ${message}`);
  } finally {
    await rm(part, { force: true });
  }
}
