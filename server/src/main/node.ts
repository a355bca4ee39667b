// The render node process: leases traces one after another and renders them; where none waits, it helps other nodes
// with theirs.
import './quietOutput.ts';
import { randomUUID } from 'node:crypto';
import { availableParallelism, setPriority } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { MeshCache } from '@variscen/engine';
import { engineBuild as ownBuild } from '@variscen/engine/node';
import { cacheBytes, memoryBudgetBytes } from '../config.ts';
import { AssetStore } from '../files/store.ts';
import { ServerClient, type ServerRefusal, isRefusal } from '../node/client.ts';
import { CachedContent, type Content, SharedContent } from '../node/content.ts';
import { ExrFiles } from '../node/encode/exrFile.ts';
import { FinishedTraces } from '../node/finishedTraces.ts';
import { letGo } from '../node/letGo.ts';
import type { Machine } from '../node/machine.ts';
import { helpTrace, renderTrace } from '../node/renderTrace.ts';
import { SLICE_TIMES } from '../node/slicedFilm.ts';
import { StoredParts } from '../files/storedParts.ts';
import { REFUSED } from './keepNode.ts';

/** What people do on this machine comes first. Threads that are started from here on take it over. */
const NICENESS = 10;
const MOST_NICE = 19;
const IDLE_MS = 500;
const TROUBLE_MS = 1000;
/** After help that failed: the trace's own node goes on with it. */
const NO_HELP_MS = 60_000;
const LEAVE_MS = 5000;

const need = (name: string): string => {
  const value = process.env[name];
  if (!value) throw new Error(`${name} is not set.`);
  return value;
};
/** @throws Error of what is not a number above 0 */
function numberOf(name: string): number | undefined {
  const value = process.env[name];
  if (value === undefined) return undefined;
  if (!(Number(value) > 0)) throw new Error(`${name} is “${value}”, and is a number above 0.`);
  return Number(value);
}
const log = (message: string) => console.error(`node: ${message}`);

const client = new ServerClient(
  need('VARISCEN_SERVER'),
  need('VARISCEN_NODE_TOKEN'),
  process.env['VARISCEN_NODE_NAME'] ?? 'this machine',
);
const folder = need('VARISCEN_NODE_FOLDER');
const cache = cachedContent();
const machine = await thisMachine();
const instance = randomUUID();

/** Absent on the machine that Variscen runs on, whose node reads the server's own files. */
function cachedContent(): CachedContent | undefined {
  if (process.env['VARISCEN_ASSETS']) return undefined;
  const root = join(folder, 'content');
  return new CachedContent(new AssetStore(root), root, client, cacheBytes(), log);
}
async function thisMachine(): Promise<Machine> {
  const threads = numberOf('VARISCEN_THREADS') ?? availableParallelism();
  const budgetBytes = memoryBudgetBytes();
  const own = process.env['VARISCEN_ASSETS'];
  const engineBuild = await ownBuild();
  const content: Content = cache ?? new SharedContent(new AssetStore(own!), client);
  return {
    threads,
    budgetBytes,
    content,
    meshCache: new MeshCache(budgetBytes),
    storedParts: new StoredParts(folder, engineBuild, cacheBytes(), log),
    exrFiles: new ExrFiles(threads),
    finished: new FinishedTraces(folder),
    engineBuild,
    sliceTimes: {
      lookS: numberOf('VARISCEN_LOOK_S') ?? SLICE_TIMES.lookS,
      sliceS: numberOf('VARISCEN_SLICE_S') ?? SLICE_TIMES.sliceS,
    },
  };
}

const niceness = numberOf('VARISCEN_NICENESS') ?? NICENESS;
if (niceness > MOST_NICE) throw new Error(`VARISCEN_NICENESS is “${niceness}”, and is at most ${MOST_NICE}.`);
setPriority(niceness);
const stop = new AbortController();
process.on('SIGTERM', () => stop.abort());
process.on('SIGINT', () => undefined); // who started it decides
process.on('disconnect', () => stop.abort());

/** Says hello, and lets go of finished traces that nobody waits for any more. */
async function introduce(): Promise<void> {
  const { threads, budgetBytes, engineBuild: engine, finished } = machine;
  await client.hello({ threads, budgetBytes, engine, restBytes: process.memoryUsage.rss(), instance });
  const held = await finished.held();
  if (held.length) for (const traceId of await client.unwanted(held)) await finished.drop(traceId);
}

let noHelpUntil = 0;
/** One trace, or slices of one. @returns whether there was something to do */
async function work(): Promise<boolean> {
  const lease = await client.lease(machine.engineBuild, process.memoryUsage.rss());
  if (lease) {
    await renderTrace(client, lease, machine, stop.signal);
    return true;
  }
  const other = performance.now() < noHelpUntil ? null : await client.help(machine.engineBuild);
  if (!other) return false;
  try {
    await helpTrace(client, other, machine, stop.signal);
  } catch (e) {
    noHelpUntil = performance.now() + NO_HELP_MS;
    throw e;
  }
  return true;
}

/** What the server will say again to whatever this node does. */
const isFinal = (e: unknown): boolean => isRefusal(e) && (e.code === 'FORBIDDEN' || e.code === 'OTHER_BUILD');

await machine.finished.open();
await machine.storedParts.open();
let known = false;
while (!stop.signal.aborted) {
  try {
    if (!known) await introduce();
    known = true;
    if (await work()) {
      letGo();
      await cache?.trim();
      await machine.storedParts.trim();
    } else await sleep(IDLE_MS, undefined, { signal: stop.signal });
  } catch (e) {
    if (stop.signal.aborted) break;
    known = false; // the server may have been restarted
    log(e instanceof Error ? e.message : String(e));
    if (isFinal(e)) {
      log((e as ServerRefusal).remedy);
      process.exit(REFUSED);
    }
    await sleep(TROUBLE_MS, undefined, { signal: stop.signal }).catch(() => undefined);
  }
}
await Promise.race([client.leave().catch(() => undefined), sleep(LEAVE_MS)]);
process.exit(0);
