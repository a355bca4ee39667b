// The render nodes that have said hello since the server started, or have said what they render.
import type { RenderNode } from '@variscen/contract';
import type { NodeHours } from './nodeHours.ts';

const SILENT_MS = 15_000;

interface KnownNode {
  readonly threads: number;
  /** Null: it has not said hello to this server. */
  readonly restBytes: number | null;
  seen: number;
  traceId: string | null;
  gone: boolean;
}
function stateOf(n: KnownNode): RenderNode['state'] {
  if (n.gone || Date.now() - n.seen > SILENT_MS) return 'gone';
  return n.traceId ? 'rendering' : 'idle';
}

export class Nodes {
  private readonly known = new Map<string, KnownNode>();

  hello(name: string, threads: number, restBytes: number): void {
    this.known.set(name, { threads, restBytes, seen: Date.now(), traceId: null, gone: false });
  }
  /** Of all of them, as a server that has just started. */
  forget(): void {
    this.known.clear();
  }
  gone(name: string): void {
    const node = this.known.get(name);
    if (node) node.gone = true;
  }
  has(name: string): boolean {
    return this.known.has(name);
  }
  /** @param traceId what it renders, null: nothing, absent: as before */
  seen(name: string, traceId?: string | null): void {
    const node = this.known.get(name);
    if (!node) return;
    node.seen = Date.now();
    node.gone = false;
    if (traceId !== undefined) node.traceId = traceId;
  }
  /** A node reports what it renders: one that said hello to a server before this one is known again. */
  heard(name: string, traceId: string, threads: number | undefined): void {
    const node = this.known.get(name);
    if (!node && threads !== undefined)
      this.known.set(name, { threads, restBytes: null, seen: Date.now(), traceId, gone: false });
    this.seen(name);
  }
  finished(traceId: string): void {
    for (const n of this.known.values()) if (n.traceId === traceId) n.traceId = null;
  }

  /** Threads that a plan counts scratch memory for: the largest node's. */
  threads(): number {
    return Math.max(1, ...this.present().map((n) => n.threads));
  }
  /** What a node's process takes with nothing to do: the largest's; null where no node is known. */
  restBytes(): number | null {
    const known = this.present().flatMap((n) => n.restBytes ?? []);
    return known.length ? Math.max(...known) : null;
  }
  private present(): KnownNode[] {
    return [...this.known.values()].filter((n) => !n.gone);
  }

  /** The name of the one with most threads that is there. */
  largest(): string | null {
    const [first] = [...this.known].filter(([, n]) => !n.gone).sort(([, a], [, b]) => b.threads - a.threads);
    return first?.[0] ?? null;
  }
  /** Threads that a node has; 0 where it is not known. */
  threadsOf(name: string): number {
    return this.known.get(name)?.threads ?? 0;
  }
  view(hours: NodeHours): RenderNode[] {
    return [...this.known].map(([name, n]) => ({
      name,
      threads: n.threads,
      state: stateOf(n),
      seenAt: new Date(n.seen).toISOString(),
      threadsNow: hours.power(name, n.threads).threads,
      why: hours.power(name, n.threads).why,
      hours: hours.of(name) as RenderNode['hours'],
    }));
  }
}
