// The render node process: leases traces one after another and renders them.
import './quietOutput.ts';
import { availableParallelism, setPriority } from 'node:os';
import { setTimeout as sleep } from 'node:timers/promises';
import { MeshCache } from '@variscen/engine';
import { kernelBuild } from '@variscen/engine/node';
import { memoryBudgetBytes } from '../config.ts';
import { ServerClient } from '../node/client.ts';
import { ExrFiles } from '../node/encode/exrFile.ts';
import { FinishedTraces } from '../node/finishedTraces.ts';
import { letGo } from '../node/letGo.ts';
import { renderTrace } from '../node/renderTrace.ts';
import { SLICE_TIMES } from '../node/slicedFilm.ts';

/** What people do on this machine comes first. Threads that are started from here on take it over. */
const NICENESS = 10;
const IDLE_MS = 500;
const TROUBLE_MS = 1000;

const need = (name: string): string => {
  const value = process.env[name];
  if (!value) throw new Error(`${name} is not set.`);
  return value;
};
/** For trying it with small pictures. */
function secondsOf(name: string): number | undefined {
  const value = process.env[name];
  if (value === undefined) return undefined;
  if (!(Number(value) > 0)) throw new Error(`${name} is “${value}”, and is a number of seconds above 0.`);
  return Number(value);
}
const threads = Number(process.env['VARISCEN_THREADS'] ?? availableParallelism());
const client = new ServerClient(
  need('VARISCEN_SERVER'),
  need('VARISCEN_NODE_TOKEN'),
  process.env['VARISCEN_NODE_NAME'] ?? 'this machine',
);
const budgetBytes = memoryBudgetBytes();
const finished = new FinishedTraces(need('VARISCEN_NODE_FOLDER'));
const machine = {
  threads,
  budgetBytes,
  meshCache: new MeshCache(budgetBytes),
  exrFiles: new ExrFiles(threads),
  finished,
  engineBuild: await kernelBuild(),
  sliceTimes: {
    lookS: secondsOf('VARISCEN_LOOK_S') ?? SLICE_TIMES.lookS,
    sliceS: secondsOf('VARISCEN_SLICE_S') ?? SLICE_TIMES.sliceS,
  },
};

setPriority(NICENESS);
const stop = new AbortController();
process.on('SIGTERM', () => stop.abort());
process.on('SIGINT', () => undefined); // the supervisor decides
process.on('disconnect', () => stop.abort());

/** Says hello, and lets go of finished traces that nobody waits for any more. */
async function introduce(): Promise<void> {
  await client.hello(threads, process.memoryUsage.rss());
  const held = await finished.held();
  if (held.length) for (const traceId of await client.unwanted(held)) await finished.drop(traceId);
}

await finished.open();
let known = false;
while (!stop.signal.aborted) {
  try {
    if (!known) await introduce();
    known = true;
    const lease = await client.lease(machine.engineBuild);
    if (lease) {
      await renderTrace(client, lease, machine, stop.signal);
      letGo();
    } else await sleep(IDLE_MS, undefined, { signal: stop.signal });
  } catch (e) {
    if (stop.signal.aborted) break;
    known = false; // the server may have been restarted
    console.error(`node: ${e instanceof Error ? e.message : String(e)}`);
    await sleep(TROUBLE_MS, undefined, { signal: stop.signal }).catch(() => undefined);
  }
}
process.exit(0);
