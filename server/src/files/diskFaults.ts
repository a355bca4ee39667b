// What a disk says when it does not take a file, in words.
import { AppError } from '@variscen/contract/errors';

const DISK_FAULTS: Readonly<Record<string, string>> = {
  ENOSPC: 'the disk is full',
  EDQUOT: 'the quota of the disk is used up',
  EACCES: 'the folder may not be written to',
  EPERM: 'the folder may not be written to',
  EROFS: 'the disk is read-only',
  ENAMETOOLONG: 'the name is too long for the disk',
  ENOENT: 'the folder is not there',
  ENOTDIR: 'a file is where a folder should be',
  EIO: 'the disk reports a fault',
};

/** AppError NOT_STORED for what is the disk's fault, anything else as it is. */
export function asRefusal(e: unknown, path: string): unknown {
  const fault = DISK_FAULTS[(e as NodeJS.ErrnoException).code ?? ''];
  return fault ? new AppError('NOT_STORED', `“${path}” could not be stored: ${fault}.`) : e;
}
