// The render node process: leases traces one after another and renders them.
import { availableParallelism } from 'node:os';
import { setTimeout as sleep } from 'node:timers/promises';
import { MeshCache } from '@variscen/engine';
import { memoryBudgetBytes } from '../config.ts';
import { ServerClient } from '../node/client.ts';
import { renderTrace } from '../node/renderTrace.ts';

const need = (name: string): string => { const v = process.env[name]; if (!v) throw new Error(`${name} is not set.`); return v; };
const threads = Number(process.env['VARISCEN_THREADS'] ?? availableParallelism()), client = new ServerClient(need('VARISCEN_SERVER'), need('VARISCEN_NODE_TOKEN'), process.env['VARISCEN_NODE_NAME'] ?? 'this machine'), stop = new AbortController();
process.on('SIGTERM', () => stop.abort());
process.on('SIGINT', () => undefined); // the supervisor decides
process.on('disconnect', () => stop.abort());

const budgetBytes = memoryBudgetBytes(), machine = { threads, budgetBytes, meshCache: new MeshCache(budgetBytes) };

const IDLE_MS = 500, TROUBLE_MS = 1000;
let known = false;
while (!stop.signal.aborted) {
  try {
    if (!known) { await client.hello(threads); known = true; }
    const lease = await client.lease();
    if (lease) await renderTrace(client, lease, machine, stop.signal);
    else await sleep(IDLE_MS, undefined, { signal: stop.signal });
  } catch (e) {
    if (stop.signal.aborted) break;
    known = false; // the server may have been restarted
    console.error(`node: ${e instanceof Error ? e.message : String(e)}`);
    await sleep(TROUBLE_MS, undefined, { signal: stop.signal }).catch(() => undefined);
  }
}
process.exit(0);
