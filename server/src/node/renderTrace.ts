// What a node does with a lease: traces it, or takes what it has finished before; then delivers it. Everything it holds
// is given back at the end.
import type { Lease } from '@variscen/contract';
import { type Profile, filesOfCell, isFirstInLight } from '@variscen/core/plan';
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
  await whileLeased(client, lease, machine, stopped, false, async (progress, signal) => {
    let finished: FinishedTrace | null = null;
    try {
      finished = await machine.finished.get(lease.traceId);
      finished ??= await trace(client, lease, machine, progress, signal);
      await deliver(client, lease, finished, progress, signal);
      await machine.finished.drop(lease.traceId);
    } catch (e) {
      if (signal.aborted) return; // cancelled or taken over: nobody waits for this attempt
      if (isRefusal(e) && e.code === 'STALE_ATTEMPT') return;
      try {
        await client.fail(lease, e instanceof Error ? e.message : String(e), finished !== null, signal);
      } catch (unsaid) {
        // the server has taken it, and ended the lease before its answer came
        if (!signal.aborted) throw unsaid;
      }
    }
  });
}

/** Renders slices of another node's trace, which that node puts together. */
export async function helpTrace(
  client: ServerClient,
  lease: Lease,
  machine: Machine,
  stopped: AbortSignal,
): Promise<void> {
  await whileLeased(client, lease, machine, stopped, true, async (progress, signal) => {
    try {
      await helpWith(client, lease, machine, progress, signal);
    } catch (e) {
      if (!signal.aborted) throw e;
    }
  });
}

/** Renews the lease while something is done with it. The signal is given when it is lost, or this node is stopped. */
async function whileLeased(
  client: ServerClient,
  lease: Lease,
  machine: Machine,
  stopped: AbortSignal,
  helps: boolean,
  work: (progress: SharedProgress, signal: AbortSignal) => Promise<void>,
): Promise<void> {
  const lost = new AbortController();
  const threads = machine.threads > 0 ? machine.threads : undefined;
  const heartbeat = new Heartbeat(client, lease, () => lost.abort(), threads, helps);
  try {
    await work(heartbeat.progress, AbortSignal.any([lost.signal, stopped]));
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
    for (const { kind } of filesOfCell(lease.profile as Profile, isFirstInLight(lease.cells, cell)))
      await client.file(lease, cell, kind, file(cell, kind), signal);
  }
  await client.complete(lease, { ...result, token: lease.token }, signal);
}
