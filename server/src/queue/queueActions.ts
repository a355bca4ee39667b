// What people do with the queue: pause, resume, cancel, try again, and give it an order; with one trace, a batch, the
// traces of a project, or all. Each is one statement on the rows, guarded by their states, whatever nodes do meanwhile.
import { AppError, type TracePriority, type TraceState } from '@variscen/contract';
import { type DataSource, type EntityManager, type FindOptionsWhere, In } from 'typeorm';
import { type TraceRow, Traces } from '../db/entities/index.ts';
import type { Entries } from './entries.ts';
import type { TraceSlices } from './slices.ts';

/** Of which traces. */
export type Which = Pick<FindOptionsWhere<TraceRow>, 'id' | 'batchId' | 'sequenceId' | 'projectId'>;
type Touched = Pick<TraceRow, 'id' | 'jobId' | 'nodeName' | 'state' | 'projectId' | 'cut'>;

/** What it needs of the queue that nodes talk to. */
interface Queued {
  readonly slices: TraceSlices;
  endAttempt(traceId: string): Promise<void>;
  showFraction(traceId: string): Promise<void>;
  tell(row: Pick<TraceRow, 'projectId'>): void;
  tellAll(): void;
}

const PRIORITIES: Readonly<Record<TracePriority, number>> = { high: 1, normal: 0, low: -1 };
export const priorityOf = (n: number): TracePriority => {
  if (n > 0) return 'high';
  return n < 0 ? 'low' : 'normal';
};

export class QueueActions {
  constructor(
    private readonly db: DataSource,
    private readonly queue: Queued,
    private readonly entries: Entries,
    private readonly now: () => Date,
  ) {}

  /** What renders stops, and keeps the slices that are done. */
  async pause(which: Which): Promise<number> {
    const rows = await this.turn(which, ['waiting', 'rendering'], {
      state: 'paused',
      token: null,
      leaseUntil: null,
      jobId: null,
    });
    await this.letGo(rows, true);
    return rows.length;
  }
  /** Waits again, at its place. */
  async resume(which: Which): Promise<number> {
    const rows = await this.db.transaction(async (m) => {
      const turned = await this.turnIn(m, which, ['paused'], { state: 'waiting', nodeName: null });
      await this.entries.add(
        m,
        turned.map((r) => r.id),
        'as before',
      );
      return turned;
    });
    this.tell(rows);
    return rows.length;
  }
  /** @param keep slices that are done stay for a week, for when it is tried again */
  async cancel(which: Which, keep = false): Promise<number> {
    const rows = await this.turn(which, ['waiting', 'paused', 'rendering'], {
      state: 'cancelled',
      finishedAt: this.now(),
      leaseUntil: null,
      token: null,
    });
    await this.letGo(rows, keep);
    return rows.length;
  }
  /** Waits again, behind all others, tried from nought; slices that are done stay done. */
  async retry(which: Which, from: readonly TraceState[]): Promise<number> {
    const rows = await this.db.transaction(async (m) => {
      const turned = await this.turnIn(m, which, from, {
        state: 'waiting',
        error: null,
        finishedAt: null,
        fraction: 0,
        samplesDone: 0,
        result: null,
        crashes: 0,
      });
      await this.entries.add(
        m,
        turned.map((r) => r.id),
      );
      return turned;
    });
    for (const { id } of rows.filter((r) => r.cut)) {
      await this.queue.slices.forgive(id);
      await this.queue.showFraction(id);
    }
    this.tell(rows);
    return rows.length;
  }

  /**
   * Puts traces that wait, and what waits of sequences, in their order, before another one; last where that is null.
   * They take on its priority.
   */
  async move(traceIds: readonly string[], sequenceIds: readonly string[], before: string | null): Promise<void> {
    await this.db.transaction(async (m) => {
      await m.query('LOCK TABLE trace IN SHARE ROW EXCLUSIVE MODE');
      const order = await m.query<{ id: string; sequence_id: string | null; priority: number }[]>(
        `SELECT id, sequence_id, priority FROM trace WHERE state IN ('waiting', 'paused') ORDER BY priority DESC, position, id`,
      );
      const moved = new Set(traceIds);
      const sequences = new Set(sequenceIds);
      const isMoved = (t: (typeof order)[number]) =>
        moved.has(t.id) || (t.sequence_id !== null && sequences.has(t.sequence_id));
      const moving = order.filter(isMoved);
      const rest = order.filter((t) => !isMoved(t));
      const at = before === null ? rest.length : rest.findIndex((t) => t.id === before);
      const areAllThere =
        moving.filter((t) => moved.has(t.id)).length === moved.size &&
        sequenceIds.every((id) => moving.some((t) => t.sequence_id === id));
      if (!areAllThere || at < 0)
        throw new AppError('WRONG_STATE', 'Some of these traces do not wait any more. Nothing was moved.');
      const priority = (rest[at] ?? rest.at(-1) ?? moving[0]!).priority;
      rest.splice(at, 0, ...moving.map((t) => ({ ...t, priority })));
      await m.query(
        `UPDATE trace t SET position = x.n, priority = x.p FROM unnest($1::uuid[], $2::int[]) WITH ORDINALITY x(id, p, n)
          WHERE t.id = x.id`,
        [rest.map((t) => t.id), rest.map((t) => t.priority)],
      );
      await this.entries.rank(m);
    });
    this.queue.tellAll();
  }
  async setPriority(which: Which, priority: TracePriority): Promise<number> {
    const done = await this.db.transaction(async (m) => {
      const { affected } = await m.update(
        Traces,
        { ...which, state: In(['waiting', 'paused', 'rendering']) },
        { priority: PRIORITIES[priority] },
      );
      await this.entries.rank(m);
      return affected ?? 0;
    });
    this.queue.tellAll();
    return done;
  }

  private turn(which: Which, from: readonly TraceState[], to: Partial<TraceRow>): Promise<Touched[]> {
    return this.db.transaction((m) => this.turnIn(m, which, from, to));
  }
  /** The rows as they were before. */
  private async turnIn(
    m: EntityManager,
    which: Which,
    from: readonly TraceState[],
    to: Partial<TraceRow>,
  ): Promise<Touched[]> {
    const rows = await m.find(Traces, {
      select: { id: true, jobId: true, nodeName: true, state: true, projectId: true, cut: true },
      where: { ...which, state: In([...from]) },
      order: { priority: 'DESC', position: 'ASC', id: 'ASC' },
      lock: { mode: 'pessimistic_write' },
    });
    if (rows.length) await m.update(Traces, { id: In(rows.map((r) => r.id)) }, to as never);
    return rows;
  }
  private async letGo(rows: readonly Touched[], keep: boolean): Promise<void> {
    await this.entries.remove(rows.map((r) => r.jobId));
    // of thousands that only wait there is nothing to let go
    for (const row of rows.filter((r) => r.cut || r.state === 'rendering')) {
      if (keep) await this.queue.slices.releaseOf(row.id);
      else await this.queue.slices.drop(row.id);
      if (row.state !== 'rendering') continue;
      await this.queue.endAttempt(row.id);
      if (keep) await this.queue.showFraction(row.id);
    }
    this.tell(rows);
  }
  private tell(rows: readonly Touched[]): void {
    for (const projectId of new Set(rows.map((r) => r.projectId))) this.queue.tell({ projectId });
  }
}
