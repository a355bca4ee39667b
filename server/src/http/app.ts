// The HTTP application: security headers, the routes of the contract, the built interface. Thin: each handler calls one service.
import { createHash, timingSafeEqual } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, rm, stat } from 'node:fs/promises';
import { randomUUID } from 'node:crypto';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { Transform } from 'node:stream';
import {
  AppError,
  ERRORS,
  type Health,
  type Project,
  ROUTES,
  type RouteName,
  type RouteSpec,
  openApiDocument,
} from '@variscen/contract';
import { lutValue } from '@variscen/core/image';
import type { Change } from '@variscen/core/looks';
import { PROFILES, slug } from '@variscen/core/plan';
import express, { type NextFunction, type Request, type Response } from 'express';
import helmet from 'helmet';
import { Renders } from '../db/entities.ts';
import { CameraService } from '../domain/cameras.ts';
import { Edits } from '../domain/edits.ts';
import { BoardService } from '../domain/board.ts';
import type { Context } from '../domain/context.ts';
import { PlanService, asChanges } from '../domain/plans.ts';
import { EnvironmentService } from '../domain/environments.ts';
import { LibraryService } from '../domain/library.ts';
import { OptionService } from '../domain/options.ts';
import { withOrigin } from '../domain/origin.ts';
import { PendingService } from '../domain/pending.ts';
import { ProjectService } from '../domain/projects.ts';
import { VariantService } from '../domain/variants.ts';
import { RevisionService } from '../domain/revisions.ts';
import { storePlate } from '../files/plate.ts';
import { VERSION } from '../config.ts';
import { runTask } from '../work/run.ts';
import { checked, checkedBody } from './requests.ts';

export interface AppOptions {
  readonly context: Context;
  readonly nodeToken: string;
  readonly webFolder: string | null;
  readonly health: () => Promise<Health['parts']>;
  readonly log: (message: string, error?: unknown) => void;
}
/** Returns the response, or undefined where it has answered itself. */
type Handler = (call: { params: any; query: any; body: any; req: Request; res: Response }) => Promise<unknown>; // eslint-disable-line @typescript-eslint/no-explicit-any -- checked against the route's schemas before the call

const MAX_SCENE_BYTES = 2 * 2 ** 30;
const MAX_PREVIEW_BYTES = 32 * 2 ** 20;

export function createApp({ context: c, nodeToken, webFolder, health, log }: AppOptions): express.Express {
  const app = express();
  const edits = new Edits(c);
  const projects = new ProjectService(c, edits);
  const library = new LibraryService(c, projects);
  const options = new OptionService(projects);
  const variants = new VariantService(projects);
  const pending = new PendingService(projects, edits);
  const cameras = new CameraService(edits);
  const revisions = new RevisionService(c, edits);
  const environments = new EnvironmentService(c);
  const boards = new BoardService(c, projects);
  const plans = new PlanService(c, projects);
  app.disable('x-powered-by');
  app.use(
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
    }),
  );
  app.use((req, _res, next) => {
    const origin = req.get('origin');
    if (req.method !== 'GET' && origin && (!URL.canParse(origin) || new URL(origin).host !== req.get('host')))
      throw new AppError('FORBIDDEN', 'This request came from another site.');
    next();
  });

  const only = (p: Project, list: 'cameras' | 'options' | 'variants', id?: string) =>
    id ? p[list].find((x) => x.id === id) : p[list].at(-1);
  const handlers: Record<RouteName, Handler> = {
    health: async ({ res }) => {
      const parts = await health();
      const ok = parts.every((x) => x.ok);
      res.status(ok ? 200 : 503);
      return { ok, version: VERSION, parts };
    },
    listProjects: () => projects.list(),
    createProject: ({ body }) => projects.create(body.name),
    getProject: ({ params }) => projects.get(params.projectId),
    updateProject: ({ params, body }) => projects.update(params.projectId, body),
    deleteProject: async ({ params }) => {
      await projects.remove(params.projectId);
      return {};
    },
    importScene: async ({ params, query, req, res }) => {
      await projects.row(params.projectId);
      return uploaded(req, res, query.fileName, (file, signal) =>
        revisions.importScene(params.projectId, file, query.fileName, query.metresPerUnit, signal),
      );
    },
    importAsset: ({ query, req, res }) =>
      uploaded(req, res, query.fileName, (file) => storePlate(c.assets, file, query.fileName)),
    importLut: ({ query, req, res }) =>
      uploaded(req, res, query.fileName, async (file, signal) => {
        const { hash, size } = await runTask(
          { kind: 'lut', assets: c.assetsFolder, file, fileName: query.fileName },
          undefined,
          signal,
        );
        const name = query.fileName.slice(0, 200);
        return { value: lutValue({ hash, size, name }), name, size };
      }),
    listEnvironments: () => environments.list(),
    importEnvironment: ({ query, req, res }) =>
      uploaded(req, res, query.fileName, (file, signal) => environments.bring(file, query.fileName, signal)),
    exportScene: async ({ params, query, res }) => {
      const p = await projects.get(params.projectId);
      const chosen = (query.options as string)
        .split(',')
        .filter(Boolean)
        .map((id) => {
          const o = p.options.find((x) => x.id === id);
          if (o?.facet !== 'materials')
            throw new AppError('NOT_FOUND', 'One of these is no option of Materials of this project.');
          return { name: o.name, changes: o.changes as Change[] };
        });
      if (!p.revision) throw new AppError('NO_SCENE', `“${p.name}” has no scene yet.`);
      const file = join(c.uploads, `${randomUUID()}.glb`);
      const stop = new AbortController();
      res.on('close', () => {
        if (!res.writableEnded) stop.abort();
      });
      try {
        await mkdir(c.uploads, { recursive: true });
        const { bytes } = await runTask(
          {
            kind: 'export',
            assets: c.assetsFolder,
            sceneHash: p.revision.sceneHash,
            base: p.base as Change[],
            options: chosen,
            file,
          },
          undefined,
          stop.signal,
        );
        res.type('model/gltf-binary').set({
          'Content-Length': String(bytes),
          'Content-Disposition': `attachment; filename="${slug(p.name)}.glb"`,
          'Cache-Control': 'no-store',
        });
        await pipeline(createReadStream(file), res);
      } finally {
        await rm(file, { force: true });
      }
    },
    listRevisions: async ({ params }) => {
      await projects.row(params.projectId);
      return revisions.list(params.projectId);
    },
    matchRevision: ({ params, body }) => revisions.preview(params.projectId, params.revisionId, body.byHand),
    acceptRevision: async ({ params, body }) => {
      await revisions.accept(params.projectId, params.revisionId, body);
      return projects.get(params.projectId);
    },
    useRevision: async ({ params }) => {
      await revisions.use(params.projectId, params.revisionId);
      return projects.get(params.projectId);
    },
    discardRevision: async ({ params }) => {
      await revisions.discard(params.projectId, params.revisionId);
      return projects.get(params.projectId);
    },
    retarget: async ({ params, body }) => {
      await revisions.retarget(params.projectId, body.from, body.to);
      return projects.get(params.projectId);
    },
    putSets: ({ params, body }) => projects.putSets(params.projectId, body.sets),
    history: async ({ params }) => {
      await projects.row(params.projectId);
      return edits.history.steps(params.projectId);
    },
    goToStep: async ({ params }) => {
      await edits.goTo(params.projectId, params.stepId);
      return projects.get(params.projectId);
    },
    undo: async ({ params }) => ({
      label: await edits.turn(params.projectId, 'undo'),
      project: await projects.get(params.projectId),
    }),
    redo: async ({ params }) => ({
      label: await edits.turn(params.projectId, 'redo'),
      project: await projects.get(params.projectId),
    }),
    createCamera: async ({ params, body }) => {
      const id = await cameras.create(params.projectId, body.name, body.settings, body.handling, body.afterId);
      return only(await projects.get(params.projectId), 'cameras', id);
    },
    updateCamera: async ({ params, body }) => {
      await cameras.update(params.projectId, params.cameraId, body);
      return only(await projects.get(params.projectId), 'cameras', params.cameraId);
    },
    updateCameras: async ({ params, body }) => {
      await cameras.updateMany(params.projectId, body.cameraIds, body.settings, body.handling);
      return projects.get(params.projectId);
    },
    orderCameras: async ({ params, body }) => {
      await cameras.order(params.projectId, body.cameraIds);
      return projects.get(params.projectId);
    },
    deleteCamera: async ({ params }) => {
      await cameras.remove(params.projectId, params.cameraId);
      return {};
    },
    createOption: async ({ params, body }) =>
      only(await options.create(params.projectId, body.facet, body.name, body.changes ?? []), 'options'),
    updateOption: async ({ params, body }) =>
      only(await options.update(params.projectId, params.optionId, body), 'options', params.optionId),
    duplicateOption: async ({ params, body }) => {
      const d = await options.duplicate(params.projectId, params.optionId, body.name);
      return only(d.project, 'options', d.id);
    },
    orderOptions: ({ params, body }) => options.order(params.projectId, body.optionIds),
    deleteOption: async ({ params, query }) => {
      await options.remove(params.projectId, params.optionId, query.fromVariants === 'yes');
      return {};
    },
    packLooks: ({ params, query }) => library.pack(params.projectId, query.options.split(',')),
    matchLooks: ({ params, body }) => library.match(params.projectId, body.source, body.byHand),
    bringLooks: ({ params, body }) => library.bring(params.projectId, body),
    listLibrary: () => library.list(),
    saveToLibrary: ({ body }) => library.save(body.projectId, body.optionIds, body.name),
    libraryFile: async ({ params }) => (await library.file(params.entryId)).looks,
    renameLibraryEntry: ({ params, body }) => library.rename(params.entryId, body.name),
    deleteLibraryEntry: async ({ params }) => {
      await library.remove(params.entryId);
      return {};
    },
    createVariant: async ({ params, body }) =>
      only(await variants.create(params.projectId, body.optionIds, body.name), 'variants'),
    createVariants: ({ params, body }) => variants.createMany(params.projectId, body.combinations),
    orderVariants: ({ params, body }) => variants.order(params.projectId, body.variantIds),
    updateVariant: async ({ params, body }) =>
      only(await variants.update(params.projectId, params.variantId, body), 'variants', params.variantId),
    deleteVariant: async ({ params }) => {
      await variants.remove(params.projectId, params.variantId);
      return {};
    },
    editPending: ({ params, body }) => pending.edit(params.projectId, body.destination, body.set, body.clear),
    movePending: ({ params, body }) => pending.move(params.projectId, body.from, body.to, body.only),
    keepPending: ({ params, body }) => pending.keep(params.projectId, body.destination, body),
    editRecorded: ({ params, body }) => pending.editRecorded(params.projectId, body.destination, body.set, body.clear),
    board: ({ params }) => boards.board(params.projectId),
    cellHistory: ({ params }) => boards.history(params.projectId, params.cameraId, params.variantId),
    profiles: () => Promise.resolve(PROFILES),
    plan: ({ params, body }) => plans.plan(params.projectId, body),
    createBatch: ({ params, body }) => plans.createBatch(params.projectId, body),
    queue: () => c.queue.view(),
    cancelTrace: async ({ params }) => {
      await c.queue.cancel(params.traceId);
      return {};
    },
    retryTrace: async ({ params }) => {
      await c.queue.retry(params.traceId);
      return {};
    },
    tracePreview: async ({ params, res }) => {
      const png = c.queue.preview(params.traceId);
      if (!png) throw new AppError('NOT_FOUND', 'There is no picture of this trace yet.');
      res.type('png').set('Cache-Control', 'no-store').send(Buffer.from(png));
    },
    renderFile: async ({ params, res }) => {
      const render = await c.db.getRepository(Renders).findOneBy({ id: params.renderId });
      const file = render?.files.find((f) => f.kind === params.kind);
      if (!file) throw new AppError('NOT_FOUND', 'There is no such picture.');
      const path = await c.output.toRead(file.path);
      res
        .type(params.kind === 'exr' ? 'image/x-exr' : 'png')
        .set('Cache-Control', 'private, max-age=31536000, immutable');
      await pipeline(createReadStream(path), res);
    },
    asset: async ({ params, res }) => {
      const path = c.assets.path(params.hash);
      if (!(await stat(path).catch(() => null)))
        throw new AppError('NOT_FOUND', 'That content is not in the data folder.');
      res.type('application/octet-stream').set('Cache-Control', 'private, max-age=31536000, immutable');
      await pipeline(createReadStream(path), res);
    },
    assets: async ({ query, res }) => {
      const files = await Promise.all(
        (query.hashes as string).split(',').map(async (h) => {
          const path = c.assets.path(h);
          const about = await stat(path).catch(() => null);
          if (!about) throw new AppError('NOT_FOUND', 'Some of that content is not in the data folder.');
          return { path, size: about.size };
        }),
      );
      res.type('application/octet-stream').set('Cache-Control', 'private, max-age=31536000, immutable');
      // one after another from disk: a hundred of them may be more than this process should hold
      await pipeline(async function* () {
        for (const { path, size } of files) {
          const length = Buffer.alloc(4);
          length.writeUInt32LE(size);
          yield length;
          yield* createReadStream(path) as AsyncIterable<Buffer>;
        }
      }, res);
    },
    events: ({ req, res }) => {
      res
        .set({ 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', Connection: 'keep-alive' })
        .flushHeaders();
      const stop = c.events.listen((e) => res.write(`data: ${JSON.stringify(e)}\n\n`));
      const alive = setInterval(() => res.write(': alive\n\n'), 15_000);
      req.on('close', () => {
        stop();
        clearInterval(alive);
      });
      return Promise.resolve(undefined);
    },
    nodeHello: ({ body }) => {
      c.queue.hello(body.name, body.threads);
      return Promise.resolve({});
    },
    nodeGone: async ({ body }) => {
      await c.queue.gone(body.name);
      return {};
    },
    nodeHeld: async ({ body }) => ({ unwanted: await c.queue.unwanted(body.traceIds) }),
    nodeLease: async ({ body }) => {
      const row = await c.queue.lease(body.name);
      return (
        row && {
          traceId: row.id,
          token: row.token,
          leaseS: c.queue.leaseS,
          sceneHash: row.inputs.scene,
          camera: row.inputs.camera,
          changes: asChanges(row.inputs),
          profile: row.profile,
          widthPx: row.widthPx,
          heightPx: row.heightPx,
          cells: row.cells.map((x) => ({
            changes: asChanges(x.inputs),
            metadata: {
              'variscen:camera': x.cameraName,
              'variscen:variant': x.variantName,
              'variscen:version': String(x.version),
              'variscen:profile': row.profile.name,
              'variscen:state': x.hash,
            },
          })),
        }
      );
    },
    nodeProgress: async ({ params, body }) => ({
      goOn: await c.queue.progress(params.traceId, body.token, body.fraction, body.samplesDone, body.stage),
    }),
    nodePreview: async ({ params, query, req }) => {
      await c.queue.setPreview(params.traceId, query.token, await bytesOf(req));
      return {};
    },
    nodeFile: async ({ params, query, req }) => {
      await c.queue.putFile(params.traceId, query.token, query.cell, query.kind, req);
      return {};
    },
    nodeComplete: async ({ params, body }) => {
      await c.queue.complete(params.traceId, body);
      return {};
    },
    nodeFail: async ({ params, body }) => {
      await c.queue.fail(params.traceId, body.token, body.message, body.finished);
      return {};
    },
  };

  /** Streams a body into a file that is there while it is worked on; what was sent by half is gone at once. */
  async function uploaded<T>(
    req: Request,
    res: Response,
    fileName: string,
    work: (file: string, signal: AbortSignal) => Promise<T>,
  ): Promise<T> {
    const file = join(c.uploads, randomUUID());
    const stop = new AbortController();
    res.on('close', () => {
      if (!res.writableEnded) stop.abort();
    });
    try {
      await mkdir(c.uploads, { recursive: true });
      await pipeline(req, limited(MAX_SCENE_BYTES), createWriteStream(file), { signal: stop.signal });
      if ((await stat(file)).size === 0) throw new AppError('IMPORT_FAILED', `“${fileName}” is empty.`);
      return await work(file, stop.signal);
    } finally {
      await rm(file, { force: true });
    }
  }

  const json = express.json({ limit: '64mb' });
  const document = openApiDocument(VERSION);
  app.get('/api/openapi.json', (_req, res) => {
    res.json(document);
  });
  for (const [name, route] of Object.entries(ROUTES) as [RouteName, RouteSpec][]) {
    const steps = [...(route.node ? [nodesOnly(nodeToken)] : []), ...(route.body ? [json] : [])];
    app[route.method](route.path.replace(/\{(\w+)\}/g, ':$1'), ...steps, async (req: Request, res: Response) => {
      const params = route.params ? checked(route.params, req.params) : {};
      const query = route.query ? checked(route.query, req.query) : {};
      const body = route.body ? checkedBody(route.body, req.body, route.method === 'patch') : undefined;
      const tab = req.get('x-variscen-tab')?.slice(0, 60) ?? null;
      const seen = req.get('x-variscen-seen') ?? null;
      if (seen !== null && !/^\d{1,18}$/.test(seen))
        throw new AppError('INVALID', 'x-variscen-seen is what the history of the project says as “last”.');
      const value = await withOrigin({ tab, seen }, () => handlers[name]({ params, query, body, req, res }));
      if (value !== undefined && !res.headersSent) res.json(value);
    });
  }
  app.use('/api', () => {
    throw new AppError('NOT_FOUND', 'The API has no such address.', 'See /api/openapi.json for those it has.');
  });
  if (webFolder) {
    app.use(
      express.static(webFolder, {
        index: false,
        setHeaders: (res, path) => {
          if (path.includes('/assets/')) res.setHeader('Cache-Control', 'public, max-age=31536000, immutable');
        },
      }),
    );
    app.get('/{*splat}', (_req, res) => {
      res.sendFile(join(webFolder, 'index.html'));
    });
  }
  app.use((e: unknown, _req: Request, res: Response, _next: NextFunction) => {
    const known = e instanceof AppError ? e : undefined;
    const parser = (e as { type?: string }).type;
    if (res.headersSent) {
      res.destroy();
      return;
    }
    if (known) {
      res.status(known.status).json({ code: known.code, message: known.message, remedy: known.remedy });
      return;
    }
    if (parser === 'entity.parse.failed') {
      res
        .status(400)
        .json({ code: 'INVALID', message: 'The request is not valid JSON.', remedy: ERRORS.INVALID.remedy });
      return;
    }
    if (parser === 'entity.too.large') {
      res
        .status(413)
        .json({ code: 'TOO_LARGE', message: 'The request is larger than 64 MB.', remedy: ERRORS.TOO_LARGE.remedy });
      return;
    }
    log('request failed', e);
    res
      .status(500)
      .json({ code: 'INTERNAL', message: 'The server could not do this.', remedy: ERRORS.INTERNAL.remedy });
  });
  return app;
}

function nodesOnly(token: string) {
  const digest = (s: string) => createHash('sha256').update(s).digest();
  const expected = digest(`Bearer ${token}`);
  return (req: Request, _res: Response, next: NextFunction) => {
    if (!timingSafeEqual(digest(req.get('authorization') ?? ''), expected))
      throw new AppError(
        'FORBIDDEN',
        'Only render nodes may do this.',
        'Start nodes with the token that ./start made.',
      );
    next();
  };
}
function limited(max: number): Transform {
  let seen = 0;
  return new Transform({
    transform(chunk: Buffer, _encoding, done) {
      seen += chunk.length;
      done(
        seen > max ? new AppError('TOO_LARGE', `The file is larger than ${(max / 2 ** 30).toFixed(0)} GiB.`) : null,
        chunk,
      );
    },
  });
}
async function bytesOf(req: Request): Promise<Uint8Array> {
  const chunks: Buffer[] = [];
  let size = 0;
  for await (const chunk of req as AsyncIterable<Buffer>) {
    size += chunk.length;
    if (size > MAX_PREVIEW_BYTES) throw new AppError('TOO_LARGE', 'The picture is larger than 32 MiB.');
    chunks.push(chunk);
  }
  return Buffer.concat(chunks);
}
