// The HTTP application: security, the routes of the contract, the built interface. Thin: each handler calls one
// service.
import { join } from 'node:path';
import { AppError, type Health, ROUTES, type RouteName, type RouteSpec, openApiDocument } from '@variscen/contract';
import express, { type Request, type RequestHandler, type Response } from 'express';
import { VERSION } from '../config.ts';
import type { Context } from '../domain/context.ts';
import { withOrigin } from '../domain/origin.ts';
import { answerErrors } from './errors.ts';
import type { Call, Handler } from './handler.ts';
import { batchesHandlers } from './handlers/batches.ts';
import { boardHandlers } from './handlers/board.ts';
import { camerasHandlers } from './handlers/cameras.ts';
import { cleaningHandlers } from './handlers/cleaning.ts';
import { cullHandlers } from './handlers/cull.ts';
import { deliveriesHandlers } from './handlers/deliveries.ts';
import { eventsHandlers } from './handlers/events.ts';
import { filesHandlers } from './handlers/files.ts';
import { machinesHandlers } from './handlers/machines.ts';
import { libraryHandlers } from './handlers/library.ts';
import { looksHandlers } from './handlers/looks.ts';
import { nodesHandlers } from './handlers/nodes.ts';
import { picturesHandlers } from './handlers/pictures.ts';
import { projectsHandlers } from './handlers/projects.ts';
import { queueHandlers } from './handlers/queue.ts';
import { reviewsHandlers } from './handlers/reviews.ts';
import { sceneHandlers } from './handlers/scene.ts';
import { storageHandlers } from './handlers/storage.ts';
import { checked, checkedBody } from './requests.ts';
import { awakeBodies } from './awakeBodies.ts';
import { type NodeTokens, nodesOnly, ownNamesOnly, sameSiteOnly, securityHeaders, usersOnly } from './security.ts';
import { type Services, makeServices } from './services.ts';

const MOST_JSON = '64mb';

export interface AppOptions {
  readonly context: Context;
  readonly nodeToken: string;
  /** What people show where it is opened from other machines; null: nothing. */
  readonly userToken: string | null;
  readonly webFolder: string | null;
  /** Further names that the server is opened by. */
  readonly hosts: readonly string[];
  readonly health: () => Promise<Health['parts']>;
  readonly log: (message: string, error?: unknown) => void;
}

export function createApp({
  context,
  nodeToken,
  userToken,
  webFolder,
  hosts,
  health,
  log,
}: AppOptions): express.Express {
  const app = express();
  app.disable('x-powered-by');
  app.use(securityHeaders());
  app.use(ownNamesOnly(hosts));
  app.use(sameSiteOnly);
  app.use((req, _res, next) => {
    if (req.method !== 'GET' && req.get('x-variscen-tab')) context.queue.hours.edited();
    next();
  });
  app.use(awakeBodies());
  const tokens: NodeTokens = { own: nodeToken, nameOf: (token) => context.queue.machines.nameOf(token) };
  const people = usersOnly(userToken, null);
  mountRoutes(app, makeServices(context, health), {
    people,
    nodes: nodesOnly(tokens),
    both: usersOnly(userToken, tokens),
  });
  app.use('/api', () => {
    throw new AppError('NOT_FOUND', 'The API has no such address.', 'See /api/openapi.json for those it has.');
  });
  if (webFolder) mountInterface(app, webFolder, people);
  app.use(answerErrors(log));
  return app;
}

function handlersOf(services: Services) {
  return {
    ...projectsHandlers(services),
    ...sceneHandlers(services),
    ...camerasHandlers(services),
    ...cullHandlers(services),
    ...looksHandlers(services),
    ...libraryHandlers(services),
    ...batchesHandlers(services),
    ...boardHandlers(services),
    ...queueHandlers(services),
    ...filesHandlers(services),
    ...picturesHandlers(services),
    ...reviewsHandlers(services),
    ...deliveriesHandlers(services),
    ...machinesHandlers(services),
    ...nodesHandlers(services),
    ...eventsHandlers(services),
    ...storageHandlers(services),
    ...cleaningHandlers(services),
  } satisfies Record<RouteName, unknown>;
}

function mountRoutes(app: express.Express, services: Services, gates: Gates): void {
  const document = openApiDocument(VERSION);
  app.get('/api/openapi.json', gates.people, (_req, res) => {
    res.json(document);
  });
  const handlers = handlersOf(services);
  const json = express.json({ limit: MOST_JSON });
  for (const [name, route] of Object.entries(ROUTES) as [RouteName, RouteSpec][]) {
    const steps: RequestHandler[] = [gateOf(route, gates)];
    if (route.body) steps.push(json);
    const handler = handlers[name] as Handler;
    app[route.method](route.path.replace(/\{(\w+)\}/g, ':$1'), ...steps, (req: Request, res: Response) =>
      answer(route, handler, req, res),
    );
  }
}

/** Who comes in. */
interface Gates {
  readonly people: RequestHandler;
  readonly nodes: RequestHandler;
  readonly both: RequestHandler;
}
function gateOf({ node }: RouteSpec, gates: Gates): RequestHandler {
  if (node === 'also') return gates.both;
  return node ? gates.nodes : gates.people;
}

async function answer(route: RouteSpec, handler: Handler, req: Request, res: Response): Promise<void> {
  const params = route.params ? checked(route.params, req.params) : {};
  const query = route.query ? checked(route.query, req.query) : {};
  const body = route.body ? checkedBody(route.body, req.body, route.method === 'patch') : undefined;
  const call = { params, query, body, req, res } as Call;
  const value = await withOrigin(originOf(req), () => handler(call));
  if (value !== undefined && !res.headersSent) res.json(value);
}

/** Which window asks, and how much of the history it has seen. */
function originOf(req: Request): { tab: string | null; seen: string | null } {
  const tab = req.get('x-variscen-tab')?.slice(0, 60) ?? null;
  const seen = req.get('x-variscen-seen') ?? null;
  if (seen !== null && !/^\d{1,18}$/.test(seen)) {
    throw new AppError('INVALID', 'x-variscen-seen is what the history of the project says as “last”.');
  }
  return { tab, seen };
}

function mountInterface(app: express.Express, folder: string, gate: RequestHandler): void {
  app.use(gate);
  const setHeaders = (res: Response, path: string) => {
    if (path.includes('/assets/')) res.setHeader('Cache-Control', 'public, max-age=31536000, immutable');
  };
  app.use(express.static(folder, { index: false, setHeaders }));
  app.get('/{*splat}', (_req, res) => {
    res.sendFile(join(folder, 'index.html'));
  });
}
