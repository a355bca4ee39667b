// Who may ask for what: headers for the page, no requests from other sites, routes of nodes by their token.
import { createHash, timingSafeEqual } from 'node:crypto';
import { AppError } from '@variscen/contract';
import type { NextFunction, Request, Response } from 'express';
import helmet from 'helmet';

export const securityHeaders = () =>
  helmet({
    contentSecurityPolicy: {
      useDefaults: false,
      directives: {
        defaultSrc: ["'self'"],
        scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
        styleSrc: ["'self'", "'unsafe-inline'"],
        imgSrc: ["'self'", 'blob:', 'data:'],
        fontSrc: ["'self'", 'data:'],
        connectSrc: ["'self'", 'blob:'],
        workerSrc: ["'self'", 'blob:'],
        objectSrc: ["'none'"],
        baseUri: ["'self'"],
        frameAncestors: ["'none'"],
      },
    },
    crossOriginEmbedderPolicy: true,
    crossOriginOpenerPolicy: { policy: 'same-origin' },
    strictTransportSecurity: false,
  });

/** @throws AppError FORBIDDEN of a request that changes something and comes from another site's page */
export function sameSiteOnly(req: Request, _res: Response, next: NextFunction): void {
  const origin = req.get('origin');
  const isOurs = !origin || (URL.canParse(origin) && new URL(origin).host === req.get('host'));
  if (req.method !== 'GET' && !isOurs) throw new AppError('FORBIDDEN', 'This request came from another site.');
  next();
}

export function nodesOnly(token: string) {
  const digest = (s: string) => createHash('sha256').update(s).digest();
  const expected = digest(`Bearer ${token}`);
  return (req: Request, _res: Response, next: NextFunction): void => {
    const isNode = timingSafeEqual(digest(req.get('authorization') ?? ''), expected);
    if (!isNode) {
      const remedy = 'Start nodes with the token that ./start made.';
      throw new AppError('FORBIDDEN', 'Only render nodes may do this.', remedy);
    }
    next();
  };
}
