// The queue of traces. pg-boss holds the order and hands out entries; what a user sees is the trace row, whose state
// changes only by guarded updates:
//   waiting → rendering → done | failed | undelivered | cancelled
//   rendering → waiting when its lease runs out or its node is gone; → failed when its node ended by itself again
//   waiting, rendering → paused → waiting by people; failed, undelivered, cancelled → waiting by retry: queueActions
//   undelivered: finished, and its files wait on the node, which delivers them when it leases the trace again.
// Every attempt has a token: what an older attempt still sends is refused. A node renews its lease with each report.
// All that nodes say stands here together, since each word of theirs is one of those updates.
import { randomUUID } from 'node:crypto';
import { AppError, type Cut, type SliceRows, type TraceResult, type TraceStage } from '@variscen/contract';
import type { DataSource } from 'typeorm';
import { In, Not } from 'typeorm';
import { Renders, type TraceCut, type TraceRow, Traces } from '../db/entities/index.ts';
import type { Readable } from 'node:stream';
import type { Events } from '../events.ts';
import type { OutputFolder } from '../files/outputFolder.ts';
import type { DiskSpace } from '../files/diskSpace.ts';
import type { FilmFolder } from '../files/filmFolder.ts';
import { BatchEnds } from './batchEnds.ts';
import { Entries, type Entry } from './entries.ts';
import { NodeHours } from './nodeHours.ts';
import { Machines } from './machines.ts';
import { type Hello, Nodes } from './nodes.ts';
import { QueueActions } from './queueActions.ts';
import { QueuePause } from './queuePause.ts';
import type { FileKind } from '@variscen/core/plan';
import { AttemptFiles, renderOf, withoutMet } from './attemptFiles.ts';
import { type ClaimedSlice, TraceSlices } from './slices.ts';
import { RunningTraces } from './runningTraces.ts';
import { Webhook } from './webhook.ts';

const LEASE_S = 20;
const SWEEP_MS = 2000;
/** So often may a node end by itself over a trace. */
const MOST_CRASHES = 2;
/** So long without a sweep: nobody could renew a lease meanwhile. */
const ASLEEP_MS = (LEASE_S * 1000) / 2;
/** A trace that an attempt has taken. */
export type LeasedTrace = TraceRow & { readonly token: string };

/** What a node says of a trace that it renders. */
export interface NodeReport {
  readonly fraction: number;
  readonly samplesDone: number;
  readonly stage: TraceStage;
  /** Relative, of the picture so far; null: not known. */
  readonly noise: number | null;
  /** That the node has. */
  readonly threads?: number | undefined;
  /** What its process takes. */
  readonly usedBytes?: number | undefined;
}

export class TraceQueue {
  readonly entries: Entries;
  readonly actions: QueueActions;
  private readonly files: AttemptFiles;
  readonly pause: QueuePause;
  /** Pictures so far, and what else is told of running traces. */
  readonly running = new RunningTraces();
  readonly ends: BatchEnds;
  readonly webhook: Webhook;
  readonly machines: Machines;
  readonly nodes: Nodes;
  readonly slices: TraceSlices;
  readonly hours: NodeHours;
  /** Where Variscen is opened; set when it listens. */
  address = '';
  private sweeper: NodeJS.Timeout | undefined;

  constructor(
    databaseUrl: string,
    private readonly db: DataSource,
    { output, disk, films }: { readonly output: OutputFolder; readonly disk: DiskSpace; readonly films: FilmFolder },
    private readonly events: Events,
    private readonly now: () => Date,
    /** Nodes of any other are refused; null: of none, in tests. */
    private readonly engineBuild: string | null,
    private readonly log: (message: string, error?: unknown) => void,
  ) {
    this.files = new AttemptFiles(output);
    this.pause = new QueuePause(db, disk, () => this.tellAll());
    this.hours = new NodeHours(db, now);
    this.webhook = new Webhook(db, now, () => this.address);
    this.ends = new BatchEnds(db, events, this.webhook, now, log);
    this.machines = new Machines(db, now);
    this.nodes = new Nodes(this.machines, now);
    this.slices = new TraceSlices(db, films, () => this.leaseEnd());
    this.entries = new Entries(databaseUrl, db, now, (e) => this.log('queue', e));
    this.actions = new QueueActions(db, this, this.entries, now);
  }

  async start(): Promise<void> {
    await this.entries.start();
    await this.pause.open();
    await this.hours.open();
    await this.machines.open();
    await this.webhook.open();
    await this.slices.open();
    await this.extendLeases();
    this.sweeper = setInterval(() => void this.sweep().catch((e: unknown) => this.log('sweep', e)), SWEEP_MS);
  }
  async stop(): Promise<void> {
    clearInterval(this.sweeper);
    await this.entries.stop();
  }

  // ---- what nodes say
  /** A node that begins: it renders nothing yet, whatever it was doing when it was last heard of. */
  async hello(hello: Hello): Promise<void> {
    this.checkBuild(hello.name, hello.engine);
    this.nodes.hello(hello);
    await this.machines.seen(hello.name);
    await this.release(hello.name);
    this.events.emit({ type: 'queue' });
  }
  /** A node that ends because it was asked to. */
  async leave(name: string): Promise<void> {
    this.nodes.gone(name);
    await this.release(name);
    this.events.emit({ type: 'queue' });
  }
  /** A machine that renders here no more. */
  async remove(name: string): Promise<void> {
    await this.machines.remove(name);
    await this.leave(name);
    this.nodes.drop(name);
  }
  /** What it renders, and what it has claimed of others' traces, waits again. */
  private async release(name: string): Promise<void> {
    for (const row of await this.renderedBy(name)) {
      await this.slices.release(row.id, name, false);
      await this.giveBack(row);
    }
    await this.slices.releaseAll(name, false);
  }
  /** @throws AppError OTHER_BUILD: what two engines render does not fit together */
  private checkBuild(name: string, engine: string): void {
    if (this.engineBuild === null || engine === this.engineBuild) return;
    const [theirs, ours] = [engine, this.engineBuild].map((b) => b.slice(0, 12));
    throw new AppError(
      'OTHER_BUILD',
      `The engine of “${name}” is another build (${theirs}) than this one (${ours}); their pictures would not fit together.`,
    );
  }
  /** A node that ended by itself. */
  async gone(name: string): Promise<void> {
    this.nodes.gone(name);
    for (const row of await this.renderedBy(name)) {
      // counted against what it was at: a long trace may well outlive two nodes that end over different slices of it
      const overSlice = await this.slices.release(row.id, name, true);
      const crashes = overSlice === null ? row.crashes + 1 : row.crashes;
      if ((overSlice ?? crashes) >= MOST_CRASHES) await this.setAside(row, crashes);
      else await this.giveBack(row, crashes);
    }
    for (const traceId of await this.slices.releaseAll(name, true)) await this.setAsideCrashed(traceId);
    this.events.emit({ type: 'queue' });
  }
  /** A trace of another node, over a slice of which helpers have ended again and again. */
  private async setAsideCrashed(traceId: string): Promise<void> {
    const row = await this.db.getRepository(Traces).findOneBy({ id: traceId, state: 'rendering' });
    if (row && (await this.slices.mostCrashes(traceId)) >= MOST_CRASHES) await this.setAside(row, row.crashes);
  }
  private renderedBy(name: string): Promise<TraceRow[]> {
    return this.db.getRepository(Traces).findBy({ state: 'rendering', nodeName: name });
  }

  async lease(name: string, engine: string, usedBytes?: number): Promise<LeasedTrace | null> {
    if (!(await this.mayRender(name, engine, usedBytes))) return null;
    for (;;) {
      const entry = await this.nextFor(name);
      if (!entry) return null;
      const token = randomUUID();
      const taken = await this.db
        .createQueryBuilder()
        .update(Traces)
        .set({
          state: 'rendering',
          token,
          nodeName: name,
          leaseUntil: this.leaseEnd(),
          startedAt: this.now(),
          attempts: () => 'attempts + 1',
          samplesDone: 0,
          error: null,
          jobId: entry.id,
        })
        .where({ id: entry.traceId, state: 'waiting' })
        .execute();
      if (!taken.affected) {
        await this.entries.done(entry.id);
        continue;
      } // cancelled or deleted meanwhile
      const row = await this.db.getRepository(Traces).findOneByOrFail({ id: entry.traceId });
      if (this.pause.isHeld) {
        await this.giveBack(row); // people held the queue while it was taken
        return null;
      }
      this.nodes.seen(name, row.id);
      this.tell(row);
      return { ...row, token };
    }
  }
  private async mayRender(name: string, engine: string, usedBytes?: number): Promise<boolean> {
    if (!this.nodes.has(name))
      throw new AppError('WRONG_STATE', `The node “${name}” has not said hello since the server started.`);
    this.checkBuild(name, engine);
    this.nodes.seen(name, null, usedBytes);
    await this.machines.seen(name);
    return this.threadsNow(name) > 0 && !this.nodes.isDrained(name) && !(await this.pause.isPaused());
  }
  /**
   * The next that fits this machine, while another has more room. What fits none is tried, and fails with what it
   * needs.
   */
  private nextFor(name: string): Promise<Entry | null> {
    const budget = this.nodes.budgetBytes(name);
    const most = this.nodes.mostBudgetBytes();
    const isSmaller = budget !== null && most !== null && budget < most;
    return isSmaller ? this.entries.nextWithin(budget) : this.entries.next();
  }

  /** A trace that another node renders and that has slices left for this one; null where there is none. */
  async help(name: string, engine: string): Promise<TraceRow | null> {
    if (!(await this.mayRender(name, engine))) return null;
    const traceId = await this.slices.traceToHelp(name, engine, this.nodes.budgetBytes(name));
    if (traceId === null) return null;
    const row = await this.db.getRepository(Traces).findOneBy({ id: traceId, state: 'rendering' });
    if (row) this.nodes.seen(name, row.id);
    return row;
  }
  /** A node that helps with a trace is at it still. */
  async helping(
    traceId: string,
    name: string,
    { threads, usedBytes }: Pick<NodeReport, 'threads' | 'usedBytes'>,
  ): Promise<{ readonly goOn: boolean; readonly threads: number | null }> {
    this.nodes.heard(name, traceId, threads, usedBytes);
    const may = this.threadsNow(name);
    // a helper that may not work now would keep its slice from the others for hours
    if (may === 0) await this.slices.release(traceId, name, false);
    else await this.slices.renew(traceId, name);
    const isWanted = await this.db.getRepository(Traces).existsBy({ id: traceId, state: 'rendering' });
    return { goOn: isWanted && may > 0, threads: may };
  }

  /** How many threads a node may render with now. */
  private threadsNow(name: string): number {
    return this.hours.power(name, this.nodes.threadsOf(name), !this.nodes.isJoined(name)).threads;
  }
  /** Holds everything, or lets it go on. What renders stops, and keeps the slices that are done. */
  async hold(held: boolean): Promise<void> {
    await this.pause.hold(held);
    const rendering = held ? await this.db.getRepository(Traces).findBy({ state: 'rendering' }) : [];
    for (const row of rendering) {
      await this.slices.releaseOf(row.id);
      await this.giveBack(row);
    }
    this.tellAll();
  }
  async progress(
    traceId: string,
    token: string,
    { fraction, samplesDone, stage, noise, threads: has, usedBytes }: NodeReport,
  ): Promise<{ readonly goOn: boolean; readonly threads: number | null }> {
    const done = await this.db
      .getRepository(Traces)
      .update({ id: traceId, token, state: 'rendering' }, { leaseUntil: this.leaseEnd(), fraction, samplesDone });
    // the answer to its last word may be on the way still
    if (!done.affected) return { goOn: await this.isDoneBy(traceId, token), threads: null };
    this.running.report(traceId, { stage, noise });
    const row = await this.db
      .getRepository(Traces)
      .findOne({ select: { id: true, projectId: true, nodeName: true }, where: { id: traceId } });
    if (row) {
      await this.slices.renew(traceId, row.nodeName ?? '');
      this.nodes.heard(row.nodeName ?? '', traceId, has, usedBytes);
      this.events.emit({
        type: 'trace',
        projectId: row.projectId,
        traceId,
        fraction,
        samplesDone,
        stage,
        noise,
        previewVersion: this.running.previewVersion(traceId),
      });
    }
    const name = row?.nodeName ?? '';
    return { goOn: true, threads: this.nodes.has(name) ? this.threadsNow(name) : null };
  }
  async cut(traceId: string, token: string, how: TraceCut, slices: readonly SliceRows[]): Promise<Cut> {
    await this.current(traceId, token);
    return this.slices.cut(traceId, how, slices);
  }
  /** @throws AppError NOT_FOUND where the trace is not cut */
  async claim(
    traceId: string,
    nodeName: string,
    holds: readonly string[],
  ): Promise<{ claimed: ClaimedSlice | null; cut: Cut }> {
    const trace = await this.db
      .getRepository(Traces)
      .findOne({ select: { id: true, cut: true, nodeName: true }, where: { id: traceId } });
    // who leads a trace finishes it; a helper that is to take nothing more ends with its slice
    const mayClaim = trace?.nodeName === nodeName || !this.nodes.isDrained(nodeName);
    const claimed = mayClaim ? await this.slices.claim(traceId, nodeName, holds) : null;
    const cut = trace && (await this.slices.cutOf(trace));
    if (!cut) throw new AppError('NOT_FOUND', 'This trace has no slices.');
    return { claimed, cut };
  }
  /** What is to come before a batch that is queued now; null where some of it was planned without knowing. */
  async aheadS(): Promise<number | null> {
    const [row] = await this.db.query<[{ s: number | null; unknown: number }]>(
      `SELECT coalesce(sum(expected_s * (1 - fraction)), 0) s, count(*) FILTER (WHERE expected_s IS NULL)::int unknown
        FROM trace WHERE state IN ('waiting', 'rendering') AND priority >= 0`,
    );
    return row.unknown > 0 ? null : row.s;
  }
  /** When so much work is done, on the node that has most threads; null where no node is there or it never is. */
  doneAt(workS: number): Date | null {
    const name = this.nodes.largest();
    return name === null ? null : this.hours.doneAt(name, this.nodes.threadsOf(name), workS);
  }
  async setPreview(traceId: string, token: string, png: Uint8Array): Promise<void> {
    await this.current(traceId, token);
    this.running.show(traceId, png);
  }
  async putFile(traceId: string, token: string, cell: number, kind: FileKind, bytes: Readable): Promise<void> {
    await this.files.put(await this.current(traceId, token), token, cell, kind, bytes);
  }

  /**
   * All files were put aside: they are linked to their places and become renders, once. Said again by the same attempt,
   * it changes nothing.
   */
  async complete(traceId: string, result: TraceResult): Promise<void> {
    const { token } = result;
    if (await this.isDoneBy(traceId, token)) return; // its answer was lost on the way
    const row = await this.current(traceId, token);
    const files = await this.files.publish(row, token);
    await this.db.transaction(async (m) => {
      const done = await m.update(
        Traces,
        { id: traceId, token, state: 'rendering' },
        {
          state: 'done',
          fraction: 1,
          samplesDone: result.samples,
          result: withoutMet(result) as never,
          finishedAt: this.now(),
          leaseUntil: null,
        },
      );
      if (!done.affected) throw new AppError('STALE_ATTEMPT', 'Another attempt has taken this trace over.');
      for (const [i, cell] of row.cells.entries())
        await m.insert(Renders, renderOf(row, cell, files[i]!, result, this.now()) as never);
    });
    await this.entries.done(row.jobId);
    const inSlices = await this.slices.effort(traceId);
    await this.machines.worked(row.nodeName ?? '', 'trace', {
      seconds: Math.max(0, result.seconds - inSlices.seconds),
      paths: Math.max(0, result.paths - inSlices.paths),
    });
    await this.slices.drop(traceId);
    await this.finish(row);
  }

  private isDoneBy(traceId: string, token: string): Promise<boolean> {
    return this.db.getRepository(Traces).existsBy({ id: traceId, token, state: 'done' });
  }

  /** @param finished whether the trace is finished and waits, with its files, on the node */
  async fail(traceId: string, token: string, message: string, finished: boolean): Promise<void> {
    const row = await this.current(traceId, token);
    const done = await this.db
      .getRepository(Traces)
      .update(
        { id: traceId, token, state: 'rendering' },
        { state: finished ? 'undelivered' : 'failed', error: message, finishedAt: this.now(), leaseUntil: null },
      );
    if (!done.affected) return;
    await this.entries.done(row.jobId);
    await this.finish(row);
  }

  /** Of finished traces on a node, those that are delivered, cancelled or deleted. */
  async unwanted(traceIds: readonly string[]): Promise<string[]> {
    const wanted = await this.db.getRepository(Traces).find({
      select: { id: true },
      where: { id: In(traceIds), state: In(['waiting', 'paused', 'rendering', 'undelivered']) },
    });
    const ids = new Set(wanted.map((t) => t.id));
    return traceIds.filter((id) => !ids.has(id));
  }

  // ---- inside

  private leaseEnd(): Date {
    return new Date(this.now().getTime() + LEASE_S * 1000);
  }
  get leaseS(): number {
    return LEASE_S;
  }

  private async current(traceId: string, token: string): Promise<TraceRow> {
    const row = await this.db.getRepository(Traces).findOneBy({ id: traceId, token, state: 'rendering' });
    if (!row) throw new AppError('STALE_ATTEMPT', 'Another attempt has taken this trace over, or it was cancelled.');
    return row;
  }
  private sweptAt = 0;
  /**
   * Leases that ran out go back to the queue. After a time in which nobody could renew them (a sleeping machine, a
   * database that was away), and after a clock that was set, they are counted from now first.
   */
  private async sweep(): Promise<void> {
    const now = this.now().getTime();
    const sinceMs = now - this.sweptAt;
    if (sinceMs > ASLEEP_MS || sinceMs < 0) await this.extendLeases();
    this.sweptAt = now;
    const lapsed = await this.db
      .getRepository(Traces)
      .createQueryBuilder('t')
      .where(`t.state = 'rendering' AND t.leaseUntil < :now`, { now: this.now() })
      .getMany();
    for (const row of lapsed) await this.giveBack(row);
    await this.slices.sweep(this.now());
    await this.entries.reconcile();
    await this.ends.sweep();
  }
  private async extendLeases(): Promise<void> {
    await this.db.getRepository(Traces).update({ state: 'rendering' }, { leaseUntil: this.leaseEnd() });
    await this.slices.renewAll();
    this.sweptAt = this.now().getTime();
  }
  /** What ends its node again and again would hold up everything behind it. */
  private async setAside(row: TraceRow, crashes: number): Promise<void> {
    const error = `The node ended by itself ${MOST_CRASHES} times while it rendered this; it was set aside, and the rest goes on. It may take more memory than there is: render it smaller, or with fewer objects in memory.`;
    const done = await this.db
      .getRepository(Traces)
      .update(
        { id: row.id, token: row.token!, state: 'rendering' },
        { state: 'failed', error, crashes, finishedAt: this.now(), leaseUntil: null },
      );
    if (!done.affected) return;
    await this.entries.done(row.jobId);
    await this.finish(row);
  }
  private async giveBack(row: TraceRow, crashes = row.crashes): Promise<void> {
    const fraction = await this.slices.doneShare(row.id); // that it waits and how much of it is done is seen at once
    const back = await this.db
      .getRepository(Traces)
      .update(
        { id: row.id, token: row.token!, state: 'rendering' },
        { state: 'waiting', token: null, leaseUntil: null, samplesDone: 0, fraction, crashes },
      );
    if (!back.affected) return;
    await this.entries.giveBack(row.jobId);
    await this.endAttempt(row.id);
    this.tell(row);
  }
  private async finish(row: TraceRow): Promise<void> {
    await this.endAttempt(row.id);
    this.tell(row);
  }
  /** What is kept of an attempt while it renders goes. */
  async endAttempt(traceId: string): Promise<void> {
    this.running.drop(traceId);
    await this.files.drop(traceId);
    this.nodes.finished(traceId);
  }
  /** Of a trace that does not render: how much of it is done in slices. */
  async showFraction(traceId: string): Promise<void> {
    await this.db
      .getRepository(Traces)
      .update({ id: traceId, state: Not('rendering') }, { fraction: await this.slices.doneShare(traceId) });
  }
  tellAll(): void {
    this.events.emit({ type: 'queue' });
  }
  tell(row: Pick<TraceRow, 'projectId'>): void {
    this.events.emit({ type: 'queue' });
    this.events.emit({ type: 'project', projectId: row.projectId });
  }
}
