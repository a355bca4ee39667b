// What ./start runs: the data folder, the database, the server, a render node, the demo on first start; restarts what
// dies of them, the database and the server a few times; stops all of it on Ctrl+C.
import { type ChildProcess, fork } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { closeSync, existsSync, openSync } from 'node:fs';
import { access, constants, mkdir, readFile, rename, statfs, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import type { Health, RenderNode } from '@variscen/contract';
import { DEFAULT_PORT, homeFolder, memoryBudgetBytes } from '../config.ts';
import { claimFolder, leaveFolder, tellFolder } from './onlyOne.ts';
import { type Database, StartError, startPostgres } from './postgres.ts';
import { Restarts } from './restarts.ts';
import { seedDemo } from './seed.ts';
import { Silence } from './silence.ts';

/** Raised when a data folder of this version cannot be read by the one before. */
const DATA_VERSION = 1;
const LEAST_FREE_BYTES = 500 * 2 ** 20;
const NODE_NAME = 'this machine';
const RESTART_MS = 500;
const LOOK_MS = 5000;
/** Far more than it ever says nothing: it reports every second, from a thread of its own. */
const SILENT_MS = Number(process.env['VARISCEN_SILENT_S'] ?? 60) * 1000;

const { values: flags } = parseArgs({
  options: {
    port: { type: 'string' },
    'no-demo': { type: 'boolean' },
    demo: { type: 'string' },
    help: { type: 'boolean' },
  },
});
if (flags.help) {
  console.log(
    'Usage: ./start [--port N] [--no-demo] [--demo light|full]\nEnvironment: VARISCEN_HOME (data folder), VARISCEN_PORT, VARISCEN_THREADS, VARISCEN_MEMORY_MB (what one trace may take), VARISCEN_RESERVE_MB (kept free on the disk), VARISCEN_HOSTS (further names that Variscen is opened by)',
  );
  process.exit(0);
}

const home = homeFolder();
const port = Number(flags.port ?? process.env['VARISCEN_PORT'] ?? DEFAULT_PORT);
const log = join(home, 'log');
let database: Database | undefined,
  server: ChildProcess | undefined,
  node: ChildProcess | undefined,
  stopping: Promise<void> | undefined;

function fail(message: string): never {
  throw new StartError(message);
}

async function prepareHome(): Promise<void> {
  if (!Number.isInteger(port) || port < 0 || port > 65535)
    fail(`“${flags.port ?? process.env['VARISCEN_PORT']}” is not a port. Use a number from 1 to 65535.`);
  if (flags.demo !== undefined && flags.demo !== 'light' && flags.demo !== 'full') fail('--demo is light or full.');
  await mkdir(log, { recursive: true }).catch((e: Error) =>
    fail(`The data folder ${home} cannot be made: ${e.message}. Set VARISCEN_HOME to a folder that you may write to.`),
  );
  await access(home, constants.W_OK).catch(() =>
    fail(`The data folder ${home} cannot be written to. Set VARISCEN_HOME to another, or change its owner.`),
  );
  await claimFolder(home);
  const { bavail, bsize } = await statfs(home);
  if (bavail * bsize < LEAST_FREE_BYTES)
    fail(
      `Only ${((bavail * bsize) / 2 ** 20).toFixed(0)} MB are free for the data folder ${home}; at least ${LEAST_FREE_BYTES / 2 ** 20} MB are needed. Free some, or set VARISCEN_HOME to another disk.`,
    );
  const file = join(home, 'version.json');
  const made = existsSync(file)
    ? (JSON.parse(await readFile(file, 'utf8')) as { dataVersion: number }).dataVersion
    : DATA_VERSION;
  if (made > DATA_VERSION)
    fail(
      `The data folder ${home} was made by a newer Variscen (data version ${made}, this one reads ${DATA_VERSION}). Update Variscen, or set VARISCEN_HOME to another folder.`,
    );
  await writeFile(`${file}.part`, JSON.stringify({ dataVersion: DATA_VERSION }));
  await rename(`${file}.part`, file);
}
async function nodeToken(): Promise<string> {
  const file = join(home, 'node-token');
  if (!existsSync(file)) await writeFile(file, randomBytes(32).toString('hex'), { mode: 0o600 });
  return (await readFile(file, 'utf8')).trim();
}

function startChild(entry: string, env: Record<string, string>): ChildProcess {
  const out = openSync(join(log, `${entry}.log`), 'a');
  try {
    return fork(fileURLToPath(new URL(`./${entry}.js`, import.meta.url)), [], {
      env: { ...process.env, ...env },
      stdio: ['ignore', out, out, 'ipc'],
      detached: true,
    });
  } finally {
    closeSync(out);
  }
}
const listening = (child: ChildProcess) =>
  new Promise<number>((resolve, reject) => {
    child.on('message', (m: { type: string; port?: number; message?: string }) =>
      m.type === 'listening' ? resolve(m.port!) : reject(new StartError(m.message ?? 'The server failed.')),
    );
    child.once('exit', (code) =>
      reject(new StartError(`The server ended with ${code} before it was up; ${join(log, 'server.log')} says why.`)),
    );
  });
async function endChild(child: ChildProcess | undefined): Promise<void> {
  if (!child || child.exitCode !== null || child.signalCode !== null) return;
  const ended = new Promise<void>((resolve) => child.once('exit', () => resolve()));
  child.kill('SIGTERM');
  const timer = setTimeout(() => child.kill('SIGKILL'), 8000);
  await ended;
  clearTimeout(timer);
}
function stop(code: number): Promise<void> {
  return (stopping ??= (async () => {
    await endChild(node);
    await endChild(server);
    await database?.stop();
    await leaveFolder(home);
    process.exit(code);
  })());
}

const restarts = { database: new Restarts(), server: new Restarts() };

/** Keeps the database running, on the port that the server knows. */
async function keepDatabase(onPort?: number): Promise<Database> {
  const started = await startPostgres(
    join(home, 'database'),
    () => {
      if (stopping) return;
      if (!restarts.database.again()) {
        console.error('The database has ended too often. Its log and the space on the disk say more.');
        void stop(1);
        return;
      }
      console.error('The database ended unexpectedly; it is started again.');
      void sleep(RESTART_MS)
        .then(() => keepDatabase(started.port))
        .catch((e: unknown) => {
          console.error(e instanceof StartError ? e.message : e);
          void stop(1);
        });
    },
    onPort,
  );
  database = started;
  return started;
}

/** Keeps the server running; resolves with its address when it first listens. */
async function keepServer(databaseUrl: string, token: string, onPort: number): Promise<string> {
  const child = startChild('server', {
    VARISCEN_HOME: home,
    VARISCEN_PORT: String(onPort),
    VARISCEN_DATABASE_URL: databaseUrl,
    VARISCEN_NODE_TOKEN: token,
    VARISCEN_WEB: fileURLToPath(new URL('../../../web/dist', import.meta.url)),
  });
  server = child;
  const listensOn = await listening(child);
  child.removeAllListeners('exit');
  child.once('exit', (code, signal) => {
    if (stopping) return;
    const why = join(log, 'server.log');
    if (!restarts.server.again()) {
      console.error(`The server has ended too often; ${why} says why.`);
      void stop(1);
      return;
    }
    console.error(`The server ended (${signal ?? code}); another is started. ${why} says why.`);
    void sleep(RESTART_MS)
      .then(() => keepServer(databaseUrl, token, listensOn))
      .catch((e: unknown) => {
        console.error(e instanceof StartError ? e.message : e);
        void stop(1);
      });
  });
  return `http://127.0.0.1:${listensOn}`;
}

/** Keeps one node running: a dead one is reported, so that its trace is queued again at once, and another started. */
function keepNode(base: string, token: string): void {
  const child = startChild('node', {
    VARISCEN_SERVER: base,
    VARISCEN_NODE_TOKEN: token,
    VARISCEN_NODE_NAME: NODE_NAME,
    VARISCEN_NODE_FOLDER: join(home, 'node'),
  });
  node = child;
  const silence = new Silence(SILENT_MS);
  const watch = setInterval(() => void endHung(base, child, silence), LOOK_MS);
  child.once('exit', (code, signal) => {
    clearInterval(watch);
    if (stopping) return;
    console.error(`The render node ended (${signal ?? code}); another is started.`);
    void fetch(`${base}/api/node/gone`, {
      method: 'POST',
      headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
      body: JSON.stringify({ name: NODE_NAME }),
    })
      .catch(() => undefined)
      .then(() => sleep(RESTART_MS))
      .then(() => {
        if (!stopping) keepNode(base, token);
      });
  });
}

/** A node that runs and says nothing cannot be reached by a word any more. */
async function endHung(base: string, child: ChildProcess, silence: Silence): Promise<void> {
  const nodes = await fetch(`${base}/api/nodes`)
    .then((r) => r.json() as Promise<RenderNode[]>)
    .catch(() => []);
  if (!silence.isHung(nodes.find((n) => n.name === NODE_NAME)?.seenAt)) return;
  console.error(`The render node has said nothing for ${SILENT_MS / 1000} s; it is ended.`);
  child.kill('SIGKILL');
}

async function nodeReports(base: string): Promise<boolean> {
  const { parts } = (await (await fetch(`${base}/api/health`)).json()) as Health;
  return parts.some((x) => x.name === 'render node' && x.ok);
}

process.on('SIGINT', () => void stop(0));
process.on('SIGTERM', () => void stop(0));
try {
  try {
    memoryBudgetBytes();
  } catch (e) {
    fail((e as Error).message);
  }
  await prepareHome();
  const token = await nodeToken();
  const { url } = await keepDatabase();
  const base = await keepServer(url, token, port);
  await tellFolder(home, base);
  keepNode(base, token);
  for (let i = 0; !(await nodeReports(base)); i++) {
    if (i > 150) fail('The render node does not report; its log in the data folder says why.');
    await sleep(200);
  }
  const seeded = join(home, 'demo-made');
  if (!flags['no-demo'] && !existsSync(seeded)) {
    console.log('Making the demo project …');
    const id = await seedDemo(base, flags.demo === 'light' ? 'light' : 'full');
    await writeFile(seeded, id);
  }
  console.log(`Variscen is ready at ${base}`);
} catch (e) {
  if (!stopping) console.error(e instanceof StartError ? e.message : e);
  await stop(1);
}
