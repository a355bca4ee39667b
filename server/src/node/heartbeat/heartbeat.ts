// Starts and ends the thread that renews a lease.
import { Worker } from 'node:worker_threads';
import type { Lease } from '@variscen/contract';
import type { ServerClient } from '../client.ts';
import { SharedProgress } from './sharedProgress.ts';

export interface HeartbeatData {
  readonly base: string;
  readonly token: string;
  readonly name: string;
  readonly lease: Pick<Lease, 'traceId' | 'token'>;
  readonly memory: SharedArrayBuffer;
  /** That this node has. */
  readonly threads: number | undefined;
  /** Whether the trace is another node's, with which this one helps. */
  readonly helps: boolean;
}

const LIFE_MS = 500;

export class Heartbeat {
  readonly progress = new SharedProgress();
  private readonly worker: Worker;
  private readonly life: NodeJS.Timeout;

  /**
   * @param onLost called once when the server says that this attempt is not wanted any more
   * @param helps the trace is another node's
   */
  constructor(client: ServerClient, { traceId, token }: Lease, onLost: () => void, threads?: number, helps = false) {
    const inSources = import.meta.url.endsWith('.ts');
    const entry = new URL(
      inSources ? '../../../dist/node/heartbeat/heartbeat.worker.js' : './heartbeat.worker.js',
      import.meta.url,
    ); // always the build
    const data: HeartbeatData = {
      base: client.base,
      token: client.token,
      name: client.name,
      lease: { traceId, token },
      memory: this.progress.memory,
      threads,
      helps,
    };
    this.worker = new Worker(entry, { workerData: data, execArgv: [] });
    this.worker.once('message', onLost);
    this.worker.once('error', onLost); // without reports the lease runs out: better to end this attempt now
    this.life = setInterval(() => this.progress.isAlive(), LIFE_MS);
  }

  async end(): Promise<void> {
    clearInterval(this.life);
    this.worker.removeAllListeners();
    await this.worker.terminate();
  }
}
