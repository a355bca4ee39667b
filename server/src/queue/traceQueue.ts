// The queue of traces. pg-boss holds the order and hands out entries; what a user sees is the trace row, whose state
// changes only by guarded updates:
//   waiting → rendering → done | failed | undelivered | cancelled
//   rendering → waiting when its lease runs out or its node is gone; → failed when its node ended by itself again
//   waiting, rendering → paused → waiting by people;  failed, undelivered, cancelled → waiting by retry
// (queueActions.ts)
//   undelivered: finished, and its files wait on the node, which delivers them when it leases the trace again.
// Every attempt has a token: what an older attempt still sends is refused. A node renews its lease with each report.
import { randomUUID } from 'node:crypto';
import { AppError, type Cut, type SliceRows, type TraceResult, type TraceStage } from '@variscen/contract';
import type { DataSource } from 'typeorm';
import { In, Not } from 'typeorm';
import {
  type RenderRow,
  Renders,
  Settings,
  type TraceCell,
  type TraceCut,
  type TraceRow,
  Traces,
} from '../db/entities/index.ts';
import type { Readable } from 'node:stream';
import type { Events } from '../events.ts';
import type { AsideFile, OutputFolder } from '../files/outputFolder.ts';
import type { DiskSpace } from '../files/diskSpace.ts';
import type { FilmFolder } from '../files/filmFolder.ts';
import { BatchEnds } from './batchEnds.ts';
import { Entries, type Entry } from './entries.ts';
import { NodeHours } from './nodeHours.ts';
import { Machines } from './machines.ts';
import { type Hello, Nodes } from './nodes.ts';
import { QueueActions } from './queueActions.ts';
import { type FileKind, filesOfCell, isFirstInLight, linearFiles, pathOfFile } from '@variscen/core/plan';
import { type ClaimedSlice, TraceSlices } from './slices.ts';
import { Webhook } from './webhook.ts';

const LEASE_S = 20;
const SWEEP_MS = 2000;
/** The setting that says whether people hold the queue. */
const HELD = 'queue.held';
/** So often may a node end by itself over a trace. */
const MOST_CRASHES = 2;
/** So long without a sweep: nobody could renew a lease meanwhile. */
const ASLEEP_MS = (LEASE_S * 1000) / 2;
/** Several times a 4K picture with all layers: about 190 bytes a pixel before it is packed, 1.6 GB. */
const MOST_FILE_BYTES = 8 * 2 ** 30;
const asideFile = (traceId: string, token: string, cell: number, kind: FileKind): AsideFile => ({
  traceId,
  token,
  name: `${cell}.${kind}`,
});

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

/** A preview outlives its trace so long. */
const PREVIEW_KEPT_MS = 20_000;

export class TraceQueue {
  readonly entries: Entries;
  readonly actions: QueueActions;
  private readonly output: OutputFolder;
  private readonly disk: DiskSpace;
  private readonly previews = new Map<string, { version: number; png: Uint8Array }>();
  private readonly reported = new Map<string, Pick<NodeReport, 'stage' | 'noise'>>();
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
    this.output = output;
    this.disk = disk;
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
    this.held = (await this.db.getRepository(Settings).findOneBy({ key: HELD }))?.value === true;
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

  previewVersion(traceId: string): number {
    return this.previews.get(traceId)?.version ?? 0;
  }
  lastReport(traceId: string): Pick<NodeReport, 'stage' | 'noise'> {
    return this.reported.get(traceId) ?? { stage: 'tracing', noise: null };
  }
  preview(traceId: string): Uint8Array | undefined {
    return this.previews.get(traceId)?.png;
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
      if (this.held) {
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
    return this.threadsNow(name) > 0 && !this.nodes.isDrained(name) && !(await this.isPaused());
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
  /** Why nothing is handed out now, in words; null: it is. */
  private paused: string | null = null;
  get pausedFor(): string | null {
    return this.held ? 'By hand: nothing is handed out until you resume.' : this.paused;
  }
  private held = false;
  get isHeld(): boolean {
    return this.held;
  }
  /** Holds everything, or lets it go on. What renders stops, and keeps the slices that are done. */
  async hold(held: boolean): Promise<void> {
    await this.db.getRepository(Settings).upsert({ key: HELD, value: held as never }, ['key']);
    this.held = held;
    const rendering = held ? await this.db.getRepository(Traces).findBy({ state: 'rendering' }) : [];
    for (const row of rendering) {
      await this.slices.releaseOf(row.id);
      await this.giveBack(row);
    }
    this.tellAll();
  }
  /** On a full disk every trace would fail in its turn: they wait instead, and go on by themselves. */
  private async isPaused(): Promise<boolean> {
    if (this.held) return true;
    const shortage = await this.disk.shortage();
    if ((shortage === null) !== (this.paused === null)) this.events.emit({ type: 'queue' });
    this.paused = shortage;
    return shortage !== null;
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
    this.reported.set(traceId, { stage, noise });
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
        previewVersion: this.previewVersion(traceId),
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
    this.previews.set(traceId, { version: this.previewVersion(traceId) + 1, png });
  }
  async putFile(traceId: string, token: string, cell: number, kind: FileKind, bytes: Readable): Promise<void> {
    const row = await this.current(traceId, token);
    if (!row.cells[cell]) throw new AppError('INVALID', `The trace has no cell ${cell}.`);
    await this.output.putAside(asideFile(traceId, token, cell, kind), bytes, MOST_FILE_BYTES);
  }

  /**
   * All files were put aside: they are linked to their places and become renders, once. Said again by the same attempt,
   * it changes nothing.
   */
  async complete(traceId: string, result: TraceResult): Promise<void> {
    const { token } = result;
    if (await this.isDoneBy(traceId, token)) return; // its answer was lost on the way
    const row = await this.current(traceId, token);
    const files = await this.publish(row, token);
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
        await m.insert(Renders, this.renderOf(row, cell, files[i]!, result) as never);
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

  /** Pages that have just read of it still ask for it. */
  private dropPreview(traceId: string): void {
    const shown = this.previews.get(traceId);
    if (!shown) return;
    const drop = () => {
      if (this.previews.get(traceId) === shown) this.previews.delete(traceId);
    };
    setTimeout(drop, PREVIEW_KEPT_MS).unref();
  }

  private isDoneBy(traceId: string, token: string): Promise<boolean> {
    return this.db.getRepository(Traces).existsBy({ id: traceId, token, state: 'done' });
  }

  /**
   * The files of each cell at their places. They are there before the rows say so: after a crash between the two, the
   * same bytes are found and left as they are.
   */
  private async publish(row: TraceRow, token: string): Promise<RenderRow['files'][]> {
    const files = row.cells.flatMap((cell, i) =>
      filesOfCell(row.profile, isFirstInLight(row.cells, i)).map((file) => ({
        i,
        kind: file.kind,
        path: pathOfFile(cell.path, file),
      })),
    );
    for (const { i, kind, path } of files)
      if (!(await this.output.has(asideFile(row.id, token, i, kind))))
        throw new AppError('INVALID', `The file ${path} was not delivered.`);
    const byCell: RenderRow['files'][] = row.cells.map(() => []);
    for (const { i, kind, path } of files)
      byCell[i]!.push({ kind, path, ...(await this.output.publish(asideFile(row.id, token, i, kind), path)) });
    // what is the same for all cells in one lighting lies beside the first of them
    const linear = new Set(linearFiles(row.profile).map((f) => f.kind));
    return byCell.map((own, i) => {
      const first = row.cells.findIndex((c) => (c.lighting ?? 0) === (row.cells[i]!.lighting ?? 0));
      const shared = byCell[first]!.filter((f) => linear.has(f.kind));
      return [...shared.filter((f) => !own.some((x) => x.kind === f.kind)), ...own];
    });
  }

  private renderOf(row: TraceRow, cell: TraceCell, files: RenderRow['files'], result: TraceResult): RenderRow {
    const { cameraId, variantId, frame = null, version, hash, inputs } = cell;
    const { projectId, profile, widthPx, heightPx } = row;
    return {
      id: randomUUID(),
      projectId,
      traceId: row.id,
      cameraId,
      variantId,
      frame,
      version,
      hash,
      inputs,
      profile,
      widthPx,
      heightPx,
      files,
      result: ofLighting(withoutMet(result), cell.lighting ?? 0),
      met: result.met ?? null,
      cleaningId: null,
      createdAt: this.now(),
    };
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
    this.dropPreview(traceId);
    this.reported.delete(traceId);
    await this.output.dropAside(traceId);
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
/** It is kept with the pictures, and read only where it is asked for. */
const withoutMet = ({ met: _, ...result }: TraceResult): TraceResult => result;
/** As a render keeps it: of its own lighting alone. */
const ofLighting = (result: TraceResult, lighting: number): TraceResult => ({
  ...result,
  ...(result.noises && { noises: [result.noises[lighting] ?? null] }),
});
