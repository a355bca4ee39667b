// Keeps a render node running: one that ends by itself is reported, so that its trace is queued again at once, and
// another is started; one that hangs is ended.
import type { ChildProcess } from 'node:child_process';
import { setTimeout as sleep } from 'node:timers/promises';
import type { RenderNode } from '@variscen/contract';
import { Silence } from './silence.ts';

/** With this a node ends that the server does not want: starting it again would not help. */
export const REFUSED = 3;
const RESTART_MS = 500;
const LOOK_MS = 5000;
const END_MS = 8000;
/** Far more than it ever says nothing: it reports every second, from a thread of its own. */
const SILENT_MS = Number(process.env['VARISCEN_SILENT_S'] ?? 60) * 1000;

export interface KeptNode {
  readonly name: string;
  readonly server: string;
  readonly token: string;
  readonly start: () => ChildProcess;
  /** It was refused, and is not started again. */
  readonly onRefused: () => void;
}

export class NodeKeeper {
  private child: ChildProcess | undefined;
  private isStopping = false;
  constructor(private readonly node: KeptNode) {}

  start(): void {
    const child = this.node.start();
    this.child = child;
    const silence = new Silence(SILENT_MS);
    const watch = setInterval(() => void this.endHung(child, silence), LOOK_MS);
    child.once('exit', (code, signal) => {
      clearInterval(watch);
      if (this.isStopping) return;
      if (code === REFUSED) this.node.onRefused();
      else void this.again(signal ?? code);
    });
  }

  async stop(): Promise<void> {
    this.isStopping = true;
    await endChild(this.child);
  }

  private async again(how: string | number | null): Promise<void> {
    console.error(`The render node ended (${how}); another is started.`);
    const { server, token, name } = this.node;
    await fetch(`${server}/api/node/gone`, {
      method: 'POST',
      headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
      body: JSON.stringify({ name }),
    }).catch(() => undefined);
    await sleep(RESTART_MS);
    if (!this.isStopping) this.start();
  }

  /** A node that runs and says nothing cannot be reached by a word any more. */
  private async endHung(child: ChildProcess, silence: Silence): Promise<void> {
    const { server, token, name } = this.node;
    const nodes = await fetch(`${server}/api/nodes`, { headers: { authorization: `Bearer ${token}` } })
      .then((r) => r.json() as Promise<RenderNode[]>)
      .catch(() => []);
    const seenAt = Array.isArray(nodes) ? nodes.find((n) => n.name === name)?.seenAt : undefined;
    if (!silence.isHung(seenAt ?? undefined)) return;
    console.error(`The render node has said nothing for ${SILENT_MS / 1000} s; it is ended.`);
    child.kill('SIGKILL');
  }
}

/** Asks it to end, and ends it after a while. */
export async function endChild(child: ChildProcess | undefined): Promise<void> {
  if (!child || child.exitCode !== null || child.signalCode !== null) return;
  const ended = new Promise<void>((resolve) => child.once('exit', () => resolve()));
  child.kill('SIGTERM');
  const timer = setTimeout(() => child.kill('SIGKILL'), END_MS);
  await ended;
  clearTimeout(timer);
}
