// What ./start runs: the data folder, the database, the server, a render node, the demo on first start; restarts what
// dies of them, the database and the server a few times; stops all of it on Ctrl+C.
import { type ChildProcess, fork } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { closeSync, existsSync, openSync } from 'node:fs';
import { access, constants, mkdir, readFile, rename, statfs, writeFile } from 'node:fs/promises';
import { isIP, isIPv6 } from 'node:net';
import { isAbsolute, join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import type { Health } from '@variscen/contract';
import {
  DEFAULT_PORT,
  assetsFolder,
  demoFile,
  homeFolder,
  isLoopback,
  memoryBudgetBytes,
  nodeFolder,
} from '../config.ts';
import { NodeKeeper, endChild } from './keepNode.ts';
import { claimFolder, leaveFolder, tellFolder } from './onlyOne.ts';
import { type Database, StartError, startPostgres } from './postgres.ts';
import { Restarts } from './restarts.ts';
import { WEIGHTS, isWeight } from '@variscen/demo';
import { queueSketches, seedDemo } from './seed.ts';

/** Raised when a data folder of this version cannot be read by the one before. */
const DATA_VERSION = 1;
const LEAST_FREE_BYTES = 500 * 2 ** 20;
const NODE_NAME = 'this machine';
const RESTART_MS = 500;
/** The server is up again by then, or the node asks until it is. */
const TOGETHER_MS = 3000;

const USAGE = [
  'Usage: ./start [--port N] [--listen ADDRESS] [--output-root FOLDER …]',
  '               [--no-demo] [--demo light|full|heavy] [--no-pictures]',
  '  --listen       opens Variscen to other machines, with a token: an address of this one, or 0.0.0.0 for all of them',
  '  --output-root  a folder below which profiles may put pictures, beside Variscen’s own',
  '  --no-pictures  does not render the demo’s pictures when it is made',
  'Environment:',
  '  VARISCEN_HOME          data folder',
  '  VARISCEN_PORT, VARISCEN_LISTEN, VARISCEN_THREADS',
  '  VARISCEN_MEMORY_MB     what one trace may take',
  '  VARISCEN_RESERVE_MB    kept free on the disk',
  '  VARISCEN_NICENESS      how far nodes step back, 1 to 19; 10',
  '  VARISCEN_OUTPUT_ROOTS  as --output-root, with colons between',
  '  VARISCEN_HOSTS         further names that Variscen is opened by',
].join('\n');
const { values: flags } = parseArgs({
  options: {
    port: { type: 'string' },
    listen: { type: 'string' },
    'no-demo': { type: 'boolean' },
    demo: { type: 'string' },
    'no-pictures': { type: 'boolean' },
    'output-root': { type: 'string', multiple: true },
    help: { type: 'boolean' },
  },
});
if (flags.help) {
  console.log(USAGE);
  process.exit(0);
}

const home = homeFolder();
const port = Number(flags.port ?? process.env['VARISCEN_PORT'] ?? DEFAULT_PORT);
const listen = flags.listen ?? process.env['VARISCEN_LISTEN'] ?? '127.0.0.1';
const outputRoots = [
  ...(flags['output-root'] ?? []),
  ...(process.env['VARISCEN_OUTPUT_ROOTS'] ?? '').split(':').filter(Boolean),
];
const log = join(home, 'log');
let database: Database | undefined,
  server: ChildProcess | undefined,
  node: NodeKeeper | undefined,
  stopping: Promise<void> | undefined;

function fail(message: string): never {
  throw new StartError(message);
}

async function prepareHome(): Promise<void> {
  if (!Number.isInteger(port) || port < 0 || port > 65535)
    fail(`“${flags.port ?? process.env['VARISCEN_PORT']}” is not a port. Use a number from 1 to 65535.`);
  if (!isIP(listen) && listen !== 'localhost')
    fail(`“${listen}” is not an address of this machine. Use for example 0.0.0.0, or leave --listen out.`);
  const relative = outputRoots.find((root) => !isAbsolute(root));
  if (relative !== undefined) fail(`--output-root “${relative}” is not a whole path. Write it from “/” on.`);
  if (flags.demo !== undefined && !isWeight(flags.demo)) fail(`--demo is ${WEIGHTS.join(', ')}.`);
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
/** Made once, and read by nobody else. */
async function secretIn(name: string): Promise<string> {
  const file = join(home, name);
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
function stop(code: number): Promise<void> {
  return (stopping ??= (async () => {
    await node?.stop();
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
    { ...(onPort && { port: onPort }) },
  );
  database = started;
  return started;
}

interface Secrets {
  readonly node: string;
  /** Null where only this machine opens it. */
  readonly user: string | null;
}
/** By which this machine reaches it. */
function ownHost(): string {
  if (isLoopback(listen) || listen === '0.0.0.0' || listen === '::') return '127.0.0.1';
  return isIPv6(listen) ? `[${listen}]` : listen;
}

/** Keeps the server running; resolves with its address when it first listens. */
async function keepServer(databaseUrl: string, secrets: Secrets, onPort: number): Promise<string> {
  const child = startChild('server', {
    VARISCEN_HOME: home,
    VARISCEN_PORT: String(onPort),
    VARISCEN_DATABASE_URL: databaseUrl,
    VARISCEN_NODE_TOKEN: secrets.node,
    VARISCEN_LISTEN: listen,
    VARISCEN_OUTPUT_ROOTS: outputRoots.join(':'),
    ...(secrets.user && { VARISCEN_USER_TOKEN: secrets.user }),
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
      .then(() => keepServer(databaseUrl, secrets, listensOn))
      .catch((e: unknown) => {
        console.error(e instanceof StartError ? e.message : e);
        void stop(1);
      });
  });
  return `http://${ownHost()}:${listensOn}`;
}

/** The node of this machine, which reads the server's own files. */
const ownNode = (base: string, token: string): NodeKeeper =>
  new NodeKeeper({
    name: NODE_NAME,
    server: base,
    token,
    start: () =>
      startChild('node', {
        VARISCEN_SERVER: base,
        VARISCEN_NODE_TOKEN: token,
        VARISCEN_NODE_NAME: NODE_NAME,
        VARISCEN_NODE_FOLDER: nodeFolder(home),
        VARISCEN_ASSETS: assetsFolder(home),
      }),
    onRefused: () => void againTogether(),
  });
/**
 * The server does not take its own node: this checkout was built anew under them. Both are started again, as after a
 * server that ended, so often at most.
 */
async function againTogether(): Promise<void> {
  console.error(`The render node is refused; ${join(log, 'node.log')} says why. The server is started again with it.`);
  await endChild(server); // whose end starts another
  await sleep(TOGETHER_MS);
  if (!stopping) node?.start();
}

async function nodeReports(base: string, token: string): Promise<boolean> {
  const response = await fetch(`${base}/api/health`, { headers: { authorization: `Bearer ${token}` } });
  const { parts } = (await response.json()) as Health;
  return parts.some((x) => x.name === 'render node' && x.ok);
}

/** The demo is whole without its pictures. The heavy one has none: each takes minutes. */
async function queueDemoPictures(base: string, userToken: string | null, projectId: string): Promise<void> {
  try {
    const pictures = await queueSketches(base, userToken, projectId);
    console.log(`Its ${pictures} pictures are rendered as sketches, after everything else that you queue.`);
  } catch (e) {
    console.error(`The demo's pictures were not queued: ${(e as Error).message}`);
  }
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
  const token = await secretIn('node-token');
  const userToken = isLoopback(listen) ? null : await secretIn('user-token');
  const { url } = await keepDatabase();
  const base = await keepServer(url, { node: token, user: userToken }, port);
  await tellFolder(home, base);
  node = ownNode(base, token);
  node.start();
  for (let i = 0; !(await nodeReports(base, token)); i++) {
    if (i > 150) fail('The render node does not report; its log in the data folder says why.');
    await sleep(200);
  }
  const seeded = demoFile(home);
  if (!flags['no-demo'] && !existsSync(seeded)) {
    console.log('Making the demo project …');
    const weight = flags.demo !== undefined && isWeight(flags.demo) ? flags.demo : 'full';
    const id = await seedDemo(base, weight, userToken, home);
    await writeFile(seeded, id);
    if (!flags['no-pictures'] && weight !== 'heavy') await queueDemoPictures(base, userToken, id);
  }
  console.log(`Variscen is ready at ${base}${userToken ? `/?token=${userToken}` : ''}`);
  if (userToken)
    console.log(
      `Other machines open it by this one's name or address, with the same token. What they send is not encrypted: let only a network that you trust reach it.`,
    );
} catch (e) {
  if (!stopping) console.error(e instanceof StartError ? e.message : e);
  await stop(1);
}
