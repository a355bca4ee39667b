// What is answered where a handler threw: the catalogue's code, what failed, and what to do.
import { AppError, ERRORS, type ErrorCode } from '@variscen/contract';
import { knownFault } from '../faults.ts';
import type { NextFunction, Request, Response } from 'express';

interface Said {
  readonly code: ErrorCode;
  readonly message: string;
}
/** Faults of what reads requests, by the type that it gives them. */
const READER_FAULTS: Readonly<Record<string, Said>> = {
  'entity.parse.failed': { code: 'INVALID', message: 'The request is not valid JSON.' },
  'entity.too.large': { code: 'TOO_LARGE', message: 'The request is larger than 64 MB.' },
  'charset.unsupported': {
    code: 'INVALID',
    message: 'The request is in a character set that is not known. Use UTF-8.',
  },
  'encoding.unsupported': { code: 'INVALID', message: 'The request is packed in a way that is not known.' },
  'request.aborted': { code: 'INVALID', message: 'The request ended before it was whole.' },
  'request.size.invalid': { code: 'INVALID', message: 'The request is not as long as it says.' },
};
/** Others that say by their status that the asker can mend them. */
const BY_STATUS: Readonly<Record<number, Said>> = {
  400: { code: 'INVALID', message: 'The request cannot be read.' },
  404: { code: 'NOT_FOUND', message: 'There is nothing at this address.' },
  413: { code: 'TOO_LARGE', message: 'The request is too large.' },
  415: { code: 'INVALID', message: 'The request is of a kind that is not taken here.' },
  416: { code: 'INVALID', message: 'The part that was asked for lies past the end.' },
};

export function answerErrors(log: (message: string, error?: unknown) => void) {
  return (e: unknown, _req: Request, res: Response, _next: NextFunction): void => {
    if (res.headersSent) {
      res.destroy();
      return;
    }
    const { code, message, remedy, status } = asAppError(e);
    if (code === 'INTERNAL') log('request failed', e);
    res.status(status).json({ code, message, remedy });
  };
}

function asAppError(e: unknown): AppError {
  const known = knownFault(e);
  if (known) return known;
  const { type, status } = (e ?? {}) as { type?: string; status?: number };
  const said = READER_FAULTS[type ?? ''] ?? BY_STATUS[status ?? 0];
  if (e instanceof URIError)
    return new AppError('INVALID', 'The address is not spelled right: a “%” stands alone in it.');
  if (said) return new AppError(said.code, said.message);
  return new AppError('INTERNAL', 'The server could not do this.', ERRORS.INTERNAL.remedy);
}
