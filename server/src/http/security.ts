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

/** Names by which this machine calls itself. */
const OWN_NAMES = ['127.0.0.1', 'localhost', '[::1]'];

/**
 * @param more further names that Variscen is opened by, as VARISCEN_HOSTS says
 * @throws AppError FORBIDDEN of a request that came here under another's name: a page of another site whose name was
 * made to point here would otherwise be served as ours
 */
export function ownNamesOnly(more: readonly string[]) {
  const known = new Set([...OWN_NAMES, ...more.map((n) => n.toLowerCase())]);
  const isOwn = (url: string) => URL.canParse(url) && known.has(new URL(url).hostname);
  return (req: Request, _res: Response, next: NextFunction): void => {
    const host = req.get('host') ?? '';
    const origin = req.get('origin');
    if (!isOwn(`http://${host}`) || (origin !== undefined && origin !== 'null' && !isOwn(origin)))
      throw new AppError(
        'FORBIDDEN',
        `Variscen is not opened by the name “${host.slice(0, 100)}”.`,
        'Open it at the address that it printed, or name the host in VARISCEN_HOSTS.',
      );
    next();
  };
}

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
