// A new file whose bytes are on the disk, not only on their way there, when this returns.
import { type FileHandle, open } from 'node:fs/promises';

/** @throws EEXIST where there is a file already */
export async function writeFlushed(
  path: string,
  what: string | Uint8Array | ((file: FileHandle) => Promise<void>),
): Promise<void> {
  const file = await open(path, 'wx');
  try {
    if (typeof what === 'function') await what(file);
    else await file.writeFile(what);
    await file.sync();
  } finally {
    await file.close();
  }
}
