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

const COOKIE_MS = 400 * 24 * 3600 * 1000;
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

const digest = (s: string) => createHash('sha256').update(s).digest();
/** Compared without telling by the time it takes how much of it was right. */
export const isSameSecret = (a: string, b: string): boolean => timingSafeEqual(digest(a), digest(b));

export const bearerOf = (req: Request): string | null =>
  /^Bearer (\S+)$/.exec(req.get('authorization') ?? '')?.[1] ?? null;

/** Whose token a request carries: of the node that Variscen starts itself, of a machine that joined, or nobody's. */
export interface NodeTokens {
  readonly own: string;
  readonly nameOf: (token: string) => string | undefined;
}
export function isNode({ own, nameOf }: NodeTokens, token: string | null): boolean {
  return token !== null && (isSameSecret(token, own) || nameOf(token) !== undefined);
}

const COOKIE = 'variscen-token';
const cookieOf = (req: Request): string | null =>
  new RegExp(`(?:^|; )${COOKIE}=([^;]+)`).exec(req.get('cookie') ?? '')?.[1] ?? null;

/**
 * Where Variscen is opened from other machines, people show a token: the address that ./start prints has it, and the
 * browser keeps it. @param nodes whether render nodes may come in too @throws AppError NO_TOKEN
 */
export function usersOnly(userToken: string | null, nodes: NodeTokens | null) {
  return (req: Request, res: Response, next: NextFunction): void => {
    if (userToken === null) {
      next();
      return;
    }
    const shown = req.query['token'];
    if (req.method === 'GET' && typeof shown === 'string' && isSameSecret(shown, userToken)) {
      res.cookie(COOKIE, userToken, { httpOnly: true, sameSite: 'strict', maxAge: COOKIE_MS });
      res.redirect(req.path.startsWith('//') ? '/' : req.path); // so that the address does not keep it
      return;
    }
    const token = bearerOf(req) ?? cookieOf(req);
    if ((token !== null && isSameSecret(token, userToken)) || (nodes && isNode(nodes, bearerOf(req)))) {
      next();
      return;
    }
    const refusal = new AppError('NO_TOKEN', 'Variscen is opened here with a token.');
    if (req.path.startsWith('/api/')) throw refusal;
    res.status(refusal.status).type('text').send(`${refusal.message} ${refusal.remedy}`); // a person, in a browser
  };
}

/** @throws AppError FORBIDDEN without the token of a node */
export function nodesOnly(tokens: NodeTokens) {
  return (req: Request, res: Response, next: NextFunction): void => {
    const token = bearerOf(req);
    if (!isNode(tokens, token))
      throw new AppError(
        'FORBIDDEN',
        'Only render nodes may do this: the token is of none, or was withdrawn.',
        'Add the machine under Machines, and start its node with the token that is shown there.',
      );
    (res.locals as NodeLocals).nodeName = tokens.nameOf(token!);
    next();
  };
}
interface NodeLocals {
  nodeName?: string | undefined;
}
/** The name of the node that asks. @throws AppError FORBIDDEN where its token is another machine's */
export function nodeName<T extends string | undefined>(res: Response, said: T): T | string {
  const { nodeName: known } = res.locals as NodeLocals;
  if (known === undefined) return said;
  if (said === undefined || known === said) return known;
  throw new AppError('FORBIDDEN', `This is the token of “${known}”, not of “${said}”.`);
}
