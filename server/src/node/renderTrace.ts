// What a node does with a lease: traces it, or takes what it has finished before; then delivers it. Everything it holds
// is given back at the end.
import type { Lease } from '@variscen/contract';
import { type Profile, filesOfCell } from '@variscen/core/plan';
import { type ServerClient, isRefusal } from './client.ts';
import type { FinishedTrace } from './finishedTraces.ts';
import { Heartbeat } from './heartbeat/heartbeat.ts';
import type { SharedProgress } from './heartbeat/sharedProgress.ts';
import type { Machine } from './machine.ts';
import { helpWith, trace } from './trace.ts';

export async function renderTrace(
  client: ServerClient,
  lease: Lease,
  machine: Machine,
  stopped: AbortSignal,
): Promise<void> {
  const lost = new AbortController();
  const signal = AbortSignal.any([lost.signal, stopped]);
  const heartbeat = new Heartbeat(client, lease, () => lost.abort(), machine.threads > 0 ? machine.threads : undefined);
  let finished: FinishedTrace | null = null;
  try {
    finished = await machine.finished.get(lease.traceId);
    finished ??= await trace(client, lease, machine, heartbeat.progress, signal);
    await deliver(client, lease, finished, heartbeat.progress, signal);
    await machine.finished.drop(lease.traceId);
  } catch (e) {
    if (signal.aborted) return; // cancelled or taken over: nobody waits for this attempt
    if (isRefusal(e) && e.code === 'STALE_ATTEMPT') return;
    await client.fail(lease, e instanceof Error ? e.message : String(e), finished !== null, signal);
  } finally {
    await heartbeat.end();
  }
}

/** Renders slices of another node's trace, which that node puts together. */
export async function helpTrace(
  client: ServerClient,
  lease: Lease,
  machine: Machine,
  stopped: AbortSignal,
): Promise<void> {
  const lost = new AbortController();
  const signal = AbortSignal.any([lost.signal, stopped]);
  const heartbeat = new Heartbeat(client, lease, () => lost.abort(), machine.threads, true);
  try {
    await helpWith(client, lease, machine, heartbeat.progress, signal);
  } catch (e) {
    if (!signal.aborted) throw e;
  } finally {
    await heartbeat.end();
  }
}

async function deliver(
  client: ServerClient,
  lease: Lease,
  { result, file }: FinishedTrace,
  progress: SharedProgress,
  signal: AbortSignal,
): Promise<void> {
  progress.traced(1, result.samples);
  progress.enter('delivering');
  for (const cell of lease.cells.keys()) {
    for (const { kind } of filesOfCell(lease.profile as Profile, cell === 0))
      await client.file(lease, cell, kind, file(cell, kind), signal);
  }
  await client.complete(lease, { ...result, token: lease.token }, signal);
}
