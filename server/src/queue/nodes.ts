// The render nodes that have said hello since the server started, or have said what they render: one a machine.
import { AppError, type RenderNode } from '@variscen/contract';
import type { Machines } from './machines.ts';
import type { NodeHours } from './nodeHours.ts';

const SILENT_MS = 15_000;
const MIB = 2 ** 20;
const NO_WORK = { traces: 0, slices: 0, seconds: 0, paths: 0 };

/** What a node says of itself when it begins. */
export interface Hello {
  readonly name: string;
  readonly threads: number;
  readonly restBytes: number;
  readonly engine: string;
  readonly budgetBytes: number;
  readonly instance: string;
}
interface KnownNode {
  readonly threads: number;
  /** Null: it has not said hello to this server. */
  readonly hello: Hello | null;
  /** When it was last heard of, by a clock that nobody sets, ms. */
  seen: number;
  usedBytes: number | null;
  traceId: string | null;
  gone: boolean;
}
const steadyMs = (): number => performance.now();
const isSilent = (n: KnownNode): boolean => n.gone || steadyMs() - n.seen > SILENT_MS;

export class Nodes {
  private readonly known = new Map<string, KnownNode>();
  constructor(
    private readonly machines: Machines,
    private readonly now: () => Date,
  ) {}

  /** @throws AppError WRONG_STATE where another process of this name is there */
  hello(hello: Hello): void {
    const before = this.known.get(hello.name);
    if (before?.hello && before.hello.instance !== hello.instance && !isSilent(before) && this.isJoined(hello.name))
      throw new AppError(
        'WRONG_STATE',
        `Another node renders as “${hello.name}” already.`,
        'Give each machine a token of its own. After a crash, wait a quarter of a minute.',
      );
    const { threads, restBytes: usedBytes } = hello;
    this.known.set(hello.name, { threads, hello, seen: steadyMs(), usedBytes, traceId: null, gone: false });
  }
  /** Of all of them, as a server that has just started. */
  forget(): void {
    this.known.clear();
  }
  drop(name: string): void {
    this.known.delete(name);
  }
  gone(name: string): void {
    const node = this.known.get(name);
    if (!node) return;
    node.gone = true;
    node.traceId = null;
  }
  has(name: string): boolean {
    return this.known.has(name);
  }
  /** @param traceId what it renders, null: nothing, absent: as before */
  seen(name: string, traceId?: string | null, usedBytes?: number): void {
    const node = this.known.get(name);
    if (!node) return;
    node.seen = steadyMs();
    node.gone = false;
    if (traceId !== undefined) node.traceId = traceId;
    if (usedBytes !== undefined) node.usedBytes = usedBytes;
  }
  /** A node reports what it renders: one that said hello to a server before this one is known again. */
  heard(name: string, traceId: string, threads: number | undefined, usedBytes: number | undefined): void {
    if (!this.known.has(name) && threads !== undefined)
      this.known.set(name, { threads, hello: null, seen: steadyMs(), usedBytes: null, traceId, gone: false });
    this.seen(name, traceId, usedBytes);
  }
  /** Nobody renders this trace any more. */
  finished(traceId: string): void {
    for (const n of this.known.values()) if (n.traceId === traceId) n.traceId = null;
  }

  /** Threads that a plan counts scratch memory for: the largest node's. */
  threads(): number {
    return Math.max(1, ...this.present().map(([, n]) => n.threads));
  }
  /** What a node's process takes with nothing to do: the largest's; null where no node is known. */
  restBytes(): number | null {
    const known = this.present().flatMap(([, n]) => n.hello?.restBytes ?? []);
    return known.length ? Math.max(...known) : null;
  }
  /** What a trace may take on the machine that has most room for it; null where no node is known. */
  mostBudgetBytes(): number | null {
    const budgets = this.present().flatMap(([name]) => this.budgetBytes(name) ?? []);
    return budgets.length ? Math.max(...budgets) : null;
  }
  /** What a trace may take on a machine: what people have set, up to what it has; null where neither is known. */
  budgetBytes(name: string): number | null {
    const set = this.setBudgetBytes(name);
    const own = this.known.get(name)?.hello?.budgetBytes ?? null;
    return set !== null && own !== null ? Math.min(set, own) : (set ?? own);
  }
  setBudgetBytes(name: string): number | null {
    const mib = this.machines.get(name)?.budgetMib ?? null;
    return mib === null ? null : mib * MIB;
  }
  isDrained(name: string): boolean {
    return this.machines.get(name)?.isDrained ?? false;
  }
  isJoined(name: string): boolean {
    return (this.machines.get(name)?.tokenHash ?? null) !== null;
  }
  private present(): [string, KnownNode][] {
    return [...this.known].filter(([, n]) => !n.gone);
  }

  /** The name of the one with most threads that is there and takes work. */
  largest(): string | null {
    const [first] = this.present()
      .filter(([name]) => !this.isDrained(name))
      .sort(([, a], [, b]) => b.threads - a.threads);
    return first?.[0] ?? null;
  }
  /** Threads that a node has; 0 where it is not known. */
  threadsOf(name: string): number {
    return this.known.get(name)?.threads ?? 0;
  }

  view(hours: NodeHours): RenderNode[] {
    const names = new Set([...this.machines.all().map((m) => m.name), ...this.known.keys()]);
    return [...names].map((name) => this.viewOf(name, hours));
  }
  private viewOf(name: string, hours: NodeHours): RenderNode {
    const machine = this.machines.get(name);
    const node = this.known.get(name);
    const threads = node?.threads ?? 0;
    const power = hours.power(name, threads, !this.isJoined(name));
    const seenAt = node ? new Date(this.now().getTime() - (steadyMs() - node.seen)) : (machine?.seenAt ?? null);
    return {
      name,
      isOwn: !this.isJoined(name),
      state: stateOf(node, seenAt),
      threads,
      seenAt: seenAt?.toISOString() ?? null,
      threadsNow: power.threads,
      why: this.whyNot(name, threads === 0 ? null : power.why),
      hours: hours.of(name) as RenderNode['hours'],
      isDrained: this.isDrained(name),
      budgetMib: machine?.budgetMib ?? null,
      budgetBytes: this.budgetBytes(name),
      usedBytes: node?.usedBytes ?? null,
      traceId: node && !isSilent(node) ? node.traceId : null,
      work: machine
        ? { traces: machine.traces, slices: machine.slices, seconds: machine.seconds, paths: machine.paths }
        : NO_WORK,
    };
  }
  private whyNot(name: string, hours: string | null): string | null {
    return this.isDrained(name) ? 'Takes nothing more' : hours;
  }
}

function stateOf(node: KnownNode | undefined, seenAt: Date | null): RenderNode['state'] {
  if (!node) return seenAt ? 'gone' : 'never';
  if (isSilent(node)) return 'gone';
  return node.traceId ? 'rendering' : 'idle';
}
