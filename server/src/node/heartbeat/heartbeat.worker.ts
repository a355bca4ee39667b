// The thread that renews a lease and reports progress, so that a long computation on the node's own thread does not
// lose the lease.
// It stops renewing when the working thread has given no sign of life for long: then another attempt may begin.
import { setTimeout as sleep } from 'node:timers/promises';
import { parentPort, workerData } from 'node:worker_threads';
import { ServerClient, isRefusal } from '../client.ts';
import { SharedProgress } from './sharedProgress.ts';
import type { HeartbeatData } from './heartbeat.ts';

const REPORT_MS = 700;
/** Much longer than any step of the working thread that does not let it give a sign: those are of seconds. */
const SILENT_MS = 180_000;

const { base, token, name, lease, memory, threads: has, helps } = workerData as HeartbeatData;
const client = new ServerClient(base, token, name);
const progress = new SharedProgress(memory);
let life = progress.life;
let lifeSeen = performance.now();

for (;;) {
  if (progress.life !== life) {
    life = progress.life;
    lifeSeen = performance.now();
  }
  if (performance.now() - lifeSeen > SILENT_MS) break;
  try {
    const usedBytes = process.memoryUsage.rss();
    const { goOn, threads } = await (helps
      ? client.helping(lease, has, usedBytes)
      : client.progress(lease, progress, has, usedBytes));
    progress.allow(threads);
    if (!goOn) {
      parentPort!.postMessage('lost');
      break;
    }
  } catch (e) {
    if (isRefusal(e)) {
      parentPort!.postMessage('lost');
      break;
    }
    // the server does not answer just now: the next report may reach it
  }
  await sleep(REPORT_MS);
}
