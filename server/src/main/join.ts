// What ./node runs: a render node for a Variscen on another machine, kept running until Ctrl+C.
import { type ChildProcess, fork } from 'node:child_process';
import { mkdir, readFile } from 'node:fs/promises';
import { homedir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { memoryBudgetBytes } from '../config.ts';
import { ServerClient, isRefusal } from '../node/client.ts';
import { NodeKeeper, REFUSED } from './keepNode.ts';
import { claimFolder, leaveFolder } from './onlyOne.ts';
import { StartError } from './postgres.ts';

const USAGE = `Usage: ./node --join ADDRESS --token-file FILE [--folder FOLDER]
  --join        where Variscen is opened, for example http://render-desk:4460
  --token-file  the file with the token that Variscen showed when this machine was added
  --folder      where content and finished pictures are kept (VARISCEN_NODE_FOLDER; ~/.variscen-node)
Environment: VARISCEN_THREADS, VARISCEN_MEMORY_MB (what one trace may take), VARISCEN_CACHE_MB (content that is kept; 20000)`;
const FIRST_WAIT_MS = 1000;
const MOST_WAIT_MS = 30_000;

function fail(message: string): never {
  throw new StartError(message);
}

interface Wish {
  readonly server: string;
  readonly token: string;
  readonly folder: string;
}
async function readWish(): Promise<Wish> {
  const { values } = parseArgs({
    options: {
      join: { type: 'string' },
      'token-file': { type: 'string' },
      folder: { type: 'string' },
      help: { type: 'boolean' },
    },
  });
  if (values.help) {
    console.log(USAGE);
    process.exit(0);
  }
  if (!values.join || !values['token-file']) fail(USAGE);
  const file = values['token-file'];
  const token = await readFile(file, 'utf8').catch((e: Error) => fail(`The token cannot be read: ${e.message}.`));
  if (!/^[\x21-\x7e]{16,}$/.test(token.trim()))
    fail(`${file} holds no token. Add this machine under Machines, and put what is shown there into the file.`);
  const folder = values.folder ?? process.env['VARISCEN_NODE_FOLDER'] ?? join(homedir(), '.variscen-node');
  return { server: addressOf(values.join), token: token.trim(), folder };
}
function addressOf(given: string): string {
  const text = given.includes('://') ? given : `http://${given}`;
  const url = URL.canParse(text) ? new URL(text) : null;
  if (!url || !['http:', 'https:'].includes(url.protocol))
    fail(`“${given}” is not an address. It looks like http://render-desk:4460.`);
  return url.origin;
}

/** Under which name this machine was added; waits for a server that does not answer yet. */
async function nameOf({ server, token }: Wish): Promise<string> {
  const client = new ServerClient(server, token, '');
  for (let waitMs = FIRST_WAIT_MS; ; waitMs = Math.min(MOST_WAIT_MS, waitMs * 2)) {
    try {
      return await client.whoami();
    } catch (e) {
      const message = e instanceof Error ? e.message : String(e);
      if (isRefusal(e)) fail(`${server} refuses this machine: ${message} ${e.remedy}`);
      console.error(`${server} does not answer (${message}); it is asked again in ${waitMs / 1000} s.`);
      await sleep(waitMs);
    }
  }
}

function startNode({ server, token, folder }: Wish, name: string): ChildProcess {
  const { VARISCEN_ASSETS: _, ...inherited } = process.env;
  return fork(fileURLToPath(new URL('./node.js', import.meta.url)), [], {
    env: {
      ...inherited,
      VARISCEN_SERVER: server,
      VARISCEN_NODE_TOKEN: token,
      VARISCEN_NODE_NAME: name,
      VARISCEN_NODE_FOLDER: folder,
    },
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    detached: true,
  });
}

let keeper: NodeKeeper | undefined;
let folder: string | undefined;
let stopping: Promise<void> | undefined;
function stop(code: number): Promise<void> {
  return (stopping ??= (async () => {
    await keeper?.stop();
    if (folder) await leaveFolder(folder);
    process.exit(code);
  })());
}
process.on('SIGINT', () => void stop(0));
process.on('SIGTERM', () => void stop(0));

try {
  memoryBudgetBytes();
  const wish = await readWish();
  await mkdir(wish.folder, { recursive: true }).catch((e: Error) =>
    fail(`The folder ${wish.folder} cannot be made: ${e.message}. Give another with --folder.`),
  );
  await claimFolder(wish.folder);
  folder = wish.folder;
  const name = await nameOf(wish);
  const start = () => startNode(wish, name);
  const onRefused = () => {
    console.error('This machine is refused, as said above; the node is not started again.');
    void stop(REFUSED);
  };
  keeper = new NodeKeeper({ name, server: wish.server, token: wish.token, start, onRefused });
  keeper.start();
  console.log(`“${name}” renders for ${wish.server}. Ctrl+C leaves.`);
} catch (e) {
  if (!stopping) console.error(e instanceof Error ? e.message : e);
  await stop(1);
}
