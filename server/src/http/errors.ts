// What is answered where a handler threw: the catalogue's code, what failed, and what to do.
import { AppError, ERRORS, type ErrorCode } from '@variscen/contract';
import type { NextFunction, Request, Response } from 'express';

/** Faults of the parser of JSON, by the type that it gives them. */
const PARSER_FAULTS: Readonly<Record<string, { readonly code: ErrorCode; readonly message: string }>> = {
  'entity.parse.failed': { code: 'INVALID', message: 'The request is not valid JSON.' },
  'entity.too.large': { code: 'TOO_LARGE', message: 'The request is larger than 64 MB.' },
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
  if (e instanceof AppError) return e;
  const fault = PARSER_FAULTS[(e as { type?: string }).type ?? ''];
  if (fault) return new AppError(fault.code, fault.message);
  return new AppError('INTERNAL', 'The server could not do this.', ERRORS.INTERNAL.remedy);
}
