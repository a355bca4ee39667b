// Puts the server together; used by its process and by integration tests.
import { mkdir, rm } from 'node:fs/promises';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { hostname } from 'node:os';
import { join } from 'node:path';
import { engineBuild as ownBuild } from '@variscen/engine/node';
import type { DataSource } from 'typeorm';
import { type Config, assetsFolder, demoFile, isLoopback, nodeFolder, outputFolder } from './config.ts';
import { openDatabase } from './db/dataSource.ts';
import { dropOldCleanings } from './domain/cleaning.ts';
import type { Context } from './domain/context.ts';
import { endBrokenDeliveries } from './domain/deliveries.ts';
import { DEVELOPED_ASIDE } from './domain/develops.ts';
import { Events } from './events.ts';
import { DiskSpace } from './files/diskSpace.ts';
import { FilmFolder } from './files/filmFolder.ts';
import { OutputFolder } from './files/outputFolder.ts';
import { AssetStore } from './files/store.ts';
import { createApp } from './http/app.ts';
import { TraceQueue } from './queue/traceQueue.ts';
import { limitTaskMemory } from './work/run.ts';
import { LOWEST_PRIORITY, setTaskNiceness } from './work/taskProcesses.ts';
import { LooksThread } from './work/looksThread.ts';

/** Reading a small scene takes half of it. */
const LEAST_TASK_BYTES = 2 ** 30;
/** Longer than clients keep a connection that rests, so that it is they who close it. */
const KEEP_ALIVE_MS = 75_000;

export interface Running {
  readonly port: number;
  readonly db: DataSource;
  readonly context: Context;
  close(): Promise<void>;
}

export async function startServer(config: Config, log: (message: string, error?: unknown) => void): Promise<Running> {
  const db = await openDatabase(config.databaseUrl);
  const events = new Events();
  const output = new OutputFolder(outputFolder(config.home), config.outputRoots);
  const assets = new AssetStore(assetsFolder(config.home));
  const now = config.now ?? (() => new Date());
  const uploads = join(config.home, 'uploads');
  limitTaskMemory(Math.max(config.memoryBudgetBytes, LEAST_TASK_BYTES));
  setTaskNiceness(config.taskNiceness ?? LOWEST_PRIORITY);
  await rm(uploads, { recursive: true, force: true }); // what an earlier run left half-sent
  // where looks kept what they loaded before they shared the node's
  for (const earlier of ['meshes', 'parts'])
    await rm(join(config.home, 'evidence', earlier), { recursive: true, force: true });
  await assets.dropStages();
  for (const folder of [output.root, assetsFolder(config.home)]) await mkdir(folder, { recursive: true });
  await output.dropLeftAside(DEVELOPED_ASIDE);
  await endBrokenDeliveries(db, output);
  const disk = new DiskSpace([config.home, output.root], config.reserveBytes ?? 0);
  const filmsFolder = join(config.home, 'films');
  const films = new FilmFolder(filmsFolder);
  const engineBuild = config.engineBuild === undefined ? await ownBuild() : config.engineBuild;
  const queue = new TraceQueue(config.databaseUrl, db, { output, disk, films }, events, now, engineBuild, log);
  await queue.start();
  const context: Context = {
    db,
    assets,
    assetsFolder: assetsFolder(config.home),
    uploads,
    demoFile: demoFile(config.home),
    evidenceFolder: join(config.home, 'evidence'),
    picturesFolder: join(config.home, 'pictures'),
    filmsFolder,
    nodeFolder: nodeFolder(config.home),
    output,
    disk,
    events,
    queue,
    looks: new LooksThread({ databaseUrl: config.databaseUrl, assets: assetsFolder(config.home) }),
    memoryBudgetBytes: config.memoryBudgetBytes,
    now,
  };
  await dropOldCleanings(context);
  const health = async () => {
    const database = await db.query('SELECT 1').then(
      () => ({ ok: true, message: 'answers' }),
      (e: Error) => ({ ok: false, message: e.message }),
    );
    const shortage = await disk.shortage();
    const nodes = database.ok
      ? queue.nodes.view(queue.hours).filter((n) => n.state === 'idle' || n.state === 'rendering')
      : [];
    return [
      { name: 'database', ...database },
      { name: 'server', ok: true, message: 'answers' },
      { name: 'disk', ok: shortage === null, message: shortage ?? 'has space' },
      {
        name: 'render node',
        ok: nodes.length > 0,
        message: nodes.length ? `${nodes.length} ready` : 'none has reported',
      },
    ];
  };
  const app = createApp({
    context,
    nodeToken: config.nodeToken,
    userToken: config.userToken ?? null,
    webFolder: config.webFolder,
    hosts: config.hosts ?? [],
    health,
    log,
  });
  const http = await new Promise<Server>((resolve, reject) => {
    const s = app.listen(config.port, config.listen ?? '127.0.0.1', (e?: Error) => (e ? reject(e) : resolve(s)));
  });
  queue.address = addressOf(config, (http.address() as AddressInfo).port);
  http.requestTimeout = 0; // uploads of 2 GB take their time
  http.keepAliveTimeout = KEEP_ALIVE_MS;
  return {
    port: (http.address() as AddressInfo).port,
    db,
    context,
    close: async () => {
      http.closeAllConnections();
      await new Promise((done) => http.close(done));
      await queue.stop();
      await context.looks.close();
      await db.destroy();
    },
  };
}

/** By which people open it. */
function addressOf({ listen }: Config, port: number): string {
  const isHereOnly = isLoopback(listen);
  return `http://${isHereOnly ? '127.0.0.1' : hostname()}:${port}`;
}
