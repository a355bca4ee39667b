// Faults of the machine that people can do something about, from the codes of the system.
import { AppError, ERRORS, type ErrorCode } from '@variscen/contract/errors'; // without schemas, which tasks wait for

const OF_THE_DISK: Readonly<Record<string, { readonly code: ErrorCode; readonly what: string }>> = {
  ENOSPC: { code: 'NO_SPACE', what: 'there is no space left on the disk' },
  EDQUOT: { code: 'NO_SPACE', what: 'the quota of the disk is used up' },
  EACCES: { code: 'NOT_WRITABLE', what: 'Variscen may not read or write there' },
  EPERM: { code: 'NOT_WRITABLE', what: 'Variscen may not read or write there' },
  EROFS: { code: 'NOT_WRITABLE', what: 'the disk is read-only' },
  ENAMETOOLONG: { code: 'INVALID', what: 'the name is too long for the disk' },
  ENOTDIR: { code: 'NOT_WRITABLE', what: 'a file is where a folder should be' },
  EIO: { code: 'NOT_WRITABLE', what: 'the disk reports a fault' },
  EMFILE: { code: 'BUSY', what: 'too many files are open at once' },
  ENFILE: { code: 'BUSY', what: 'too many files are open at once' },
};
/** “disk_full” and its like of PostgreSQL; 57P: it is being stopped; 08: the connection is gone; 53: resources. */
const OF_THE_DATABASE: readonly (readonly [RegExp, ErrorCode, string])[] = [
  [/^53100$/, 'NO_SPACE', 'the database has no space left on its disk'],
  [/^53/, 'BUSY', 'the database is at its limits'],
  [/^57P|^08/, 'BUSY', 'the database is being started or stopped'],
  [/^40/, 'BUSY', 'something else changed the same at the same moment'],
];
/** What it says of values and rows, where the cause lies with who asked. */
const OF_ROWS: readonly (readonly [RegExp, ErrorCode, string])[] = [
  [/^22P02$|^22P05$/, 'INVALID', 'A value in the request is not of the kind that is meant.'],
  [/^22003$/, 'INVALID', 'A number in the request is too large.'],
  [/^23503$/, 'NOT_FOUND', 'What this belongs to was deleted meanwhile.'],
];
const UNREACHABLE: ReadonlySet<string> = new Set(['ECONNREFUSED', 'ECONNRESET', 'EPIPE', 'ETIMEDOUT']);

const codesOf = (e: unknown): readonly string[] => {
  const { code, driverError, cause } = (e ?? {}) as { code?: unknown; driverError?: unknown; cause?: unknown };
  return [
    ...(typeof code === 'string' ? [code] : []),
    ...(driverError ? codesOf(driverError) : []),
    ...(cause ? codesOf(cause) : []),
  ];
};

/** What can be said of a fault of the machine; undefined for any other. */
export function knownFault(e: unknown): AppError | undefined {
  if (e instanceof AppError) return e;
  if (e instanceof Error && e.name === 'EntityNotFoundError')
    return new AppError('NOT_FOUND', 'It is no longer there: it was deleted meanwhile.');
  for (const code of codesOf(e)) {
    const disk = OF_THE_DISK[code];
    if (disk) return new AppError(disk.code, `This could not be done: ${disk.what}.`, ERRORS[disk.code].remedy);
    const database = OF_THE_DATABASE.find(([pattern]) => pattern.test(code));
    if (database) return new AppError(database[1], `This could not be done: ${database[2]}.`);
    const row = OF_ROWS.find(([pattern]) => pattern.test(code));
    if (row) return new AppError(row[1], row[2]);
    if (UNREACHABLE.has(code)) return new AppError('BUSY', 'This could not be done: the database does not answer.');
  }
  return undefined;
}
