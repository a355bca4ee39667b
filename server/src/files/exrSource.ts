// OpenEXR files of ours on disk, read part by part.
import { open } from 'node:fs/promises';
import { inflateSync } from 'node:zlib';
import { AppError } from '@variscen/contract';
import type { ExrSource } from '@variscen/core/image';

/** Not more than there may be: what says less than it holds is damaged. */
export const inflated: ExrSource['inflate'] = (packed, bytes) => inflateSync(packed, { maxOutputLength: bytes });

/** @throws AppError DAMAGED of a file that is not as it was written */
export async function withExr<T>(path: string, work: (source: ExrSource) => Promise<T>): Promise<T> {
  const file = await open(path);
  try {
    return await work({
      read: async (from, bytes) => {
        const buffer = Buffer.alloc(bytes);
        const { bytesRead } = await file.read(buffer, 0, bytes, from);
        return buffer.subarray(0, bytesRead);
      },
      inflate: inflated,
    });
  } catch (e) {
    if (e instanceof RangeError || isOfZlib(e))
      throw new AppError('DAMAGED', 'The picture is damaged.', 'Render the cell again.');
    throw e;
  } finally {
    await file.close();
  }
}
const isOfZlib = (e: unknown): boolean => String((e as { code?: unknown }).code ?? '').startsWith('Z_');
