// Slices of traces: rows of tiles that nodes render one at a time. The film of a slice that is done stays here until
// the trace is finished, whatever becomes of the node, the server or the database.
//   waiting → rendering → done;  rendering → waiting when its node is gone or its lease runs out
// Every attempt has a token, so that a slice's film is counted once.
import { randomUUID } from 'node:crypto';
import type { Readable } from 'node:stream';
import { AppError, type Cut, type SliceResult, type SliceRows, type QueueTrace } from '@variscen/contract';
import { type DataSource, In } from 'typeorm';
import { type SliceRow, Slices, type TraceCut, type TraceRow, Traces } from '../db/entities/index.ts';
import type { FilmFolder, SliceFilm } from '../files/filmFolder.ts';

/** Slices of a cancelled trace that are to be kept. */
const KEPT_DAYS = 7;

const WAITS_AGAIN = `state = 'waiting', token = NULL, node_name = NULL, lease_until = NULL, film_sha256 = NULL`;

/** A slice that a node has taken. */
export interface ClaimedSlice extends SliceRows {
  readonly id: string;
  readonly token: string;
}

export class TraceSlices {
  constructor(
    private readonly db: DataSource,
    private readonly films: FilmFolder,
    private readonly leaseEnd: () => Date,
  ) {}

  /** Slices and films whose trace is finished, cancelled or deleted, as after a crash, go. */
  async open(): Promise<void> {
    await this.db.query(
      `DELETE FROM slice s USING trace t WHERE t.id = s.trace_id AND (t.state = 'done'
        OR t.state = 'cancelled' AND t.finished_at < now() - interval '${KEPT_DAYS} days')`,
    );
    const kept = await this.films.traces();
    const wanted = await this.db.query<{ id: string }[]>(
      'SELECT DISTINCT trace_id id FROM slice WHERE trace_id::text = ANY($1)',
      [kept],
    );
    const ids = new Set(wanted.map((t) => t.id));
    for (const traceId of kept) if (!ids.has(traceId)) await this.films.drop(traceId);
  }

  /** How a trace is cut, and what of it is there. Null where it is not cut. */
  async cutOf({ id, cut }: Pick<TraceRow, 'id' | 'cut'>): Promise<Cut | null> {
    if (!cut) return null;
    const rows = await this.db.getRepository(Slices).find({ where: { traceId: id }, order: { fromRow: 'ASC' } });
    return {
      samples: cut.samples,
      tileRows: cut.tileRows,
      slices: rows.map((s) => ({ ...viewOf(s), id: s.id, filmSha256: s.filmSha256, work: s.result })),
    };
  }

  /** As cutOf; where the slices are of another engine they are of no use, and go. */
  async usableCut(trace: Pick<TraceRow, 'id' | 'cut'>, engine: string): Promise<Cut | null> {
    if (!trace.cut || trace.cut.engine === engine) return this.cutOf(trace);
    await this.drop(trace.id);
    return null;
  }

  /**
   * Once a trace: where it is cut already, that stays.
   * @throws AppError INVALID for slices that are not the whole film
   */
  async cut(traceId: string, how: TraceCut, slices: readonly SliceRows[]): Promise<Cut> {
    if (!areWhole(slices, how.tileRows))
      throw new AppError('INVALID', 'The slices are not all rows of the film, each once and in order.');
    const cut = await this.db.transaction(async (m) => {
      const trace = await m.findOne(Traces, { where: { id: traceId }, lock: { mode: 'pessimistic_write' } });
      if (!trace) throw new AppError('NOT_FOUND', 'There is no such trace.');
      if (trace.cut) return trace.cut;
      await m.update(Traces, { id: traceId }, { cut: how as never });
      await m.insert(
        Slices,
        slices.map((rows) => ({ id: randomUUID(), traceId, ...rows, state: 'waiting' as const, crashes: 0 })),
      );
      return how;
    });
    return (await this.cutOf({ id: traceId, cut }))!;
  }

  /**
   * The next slice that nobody renders; null where there is none. A slice that this node was given before and does not
   * hold (the answer was lost on its way) is the first.
   */
  async claim(traceId: string, nodeName: string, holds: readonly string[]): Promise<ClaimedSlice | null> {
    const [rows] = await this.db.query<[{ id: string; token: string; fromRow: number; toRow: number }[]]>(
      `UPDATE slice SET state = 'rendering', token = $2, node_name = $3, lease_until = $4
        WHERE id = (SELECT s.id FROM slice s JOIN trace t ON t.id = s.trace_id
          WHERE s.trace_id = $1 AND t.state = 'rendering'
            AND (s.state = 'waiting' OR s.state = 'rendering' AND s.node_name = $3 AND NOT s.id = ANY($5))
          ORDER BY s.from_row LIMIT 1 FOR UPDATE OF s SKIP LOCKED)
        RETURNING id, token, from_row "fromRow", to_row "toRow"`,
      [traceId, randomUUID(), nodeName, this.leaseEnd(), holds],
    );
    return rows[0] ?? null;
  }

  async putFilm(sliceId: string, token: string, bytes: Readable): Promise<void> {
    const slice = await this.current(sliceId, token);
    const filmSha256 = await this.films.put(filmOf(slice), bytes);
    await this.db.getRepository(Slices).update({ id: sliceId, token, state: 'rendering' }, { filmSha256 });
  }

  /**
   * Counts once; said again by the same attempt, it changes nothing.
   * @returns the node that rendered it; null where it was known already
   */
  async done(sliceId: string, { token, ...result }: SliceResult): Promise<string | null> {
    const slices = this.db.getRepository(Slices);
    if (await slices.existsBy({ id: sliceId, token, state: 'done' })) return null;
    const slice = await this.current(sliceId, token);
    if (!slice.filmSha256) throw new AppError('INVALID', 'The film of the slice was not delivered.');
    const done = await slices.update(
      { id: sliceId, token, state: 'rendering' },
      { state: 'done', result: result as never, leaseUntil: null },
    );
    if (!done.affected) throw stale();
    return slice.nodeName;
  }
  /** What the slices of a trace that are done took together. */
  async effort(traceId: string): Promise<{ readonly seconds: number; readonly paths: number }> {
    const [row] = await this.db.query<[{ seconds: number; paths: number }]>(
      `SELECT coalesce(sum((result->>'seconds')::float8), 0) seconds, coalesce(sum((result->>'paths')::float8), 0) paths
        FROM slice WHERE trace_id = $1 AND state = 'done'`,
      [traceId],
    );
    return row;
  }

  /**
   * The first trace in the queue's order that another node renders with this engine, that fits this node and that has
   * slices which nobody renders; null where there is none.
   */
  async traceToHelp(nodeName: string, engine: string, budgetBytes: number | null): Promise<string | null> {
    const [row] = await this.db.query<{ id: string }[]>(
      `SELECT t.id FROM trace t
        WHERE t.state = 'rendering' AND t.node_name <> $1 AND t.cut->>'engine' = $2
          AND ($3::float8 IS NULL OR t.planned_bytes <= $3)
          AND EXISTS (SELECT 1 FROM slice s WHERE s.trace_id = t.id AND s.state = 'waiting')
        ORDER BY t.priority DESC, t.position, t.id LIMIT 1`,
      [nodeName, engine, budgetBytes],
    );
    return row?.id ?? null;
  }

  /** Where the film of a slice that is done lies. @throws AppError NOT_FOUND */
  async filmPath(sliceId: string): Promise<string> {
    const slice = await this.db.getRepository(Slices).findOneBy({ id: sliceId, state: 'done' });
    if (!slice?.token) throw new AppError('NOT_FOUND', 'There is no film of this slice.');
    return this.films.path(filmOf(slice as SliceRow & { token: string }));
  }

  async renew(traceId: string, nodeName: string): Promise<void> {
    await this.db
      .getRepository(Slices)
      .update({ traceId, nodeName, state: 'rendering' }, { leaseUntil: this.leaseEnd() });
  }
  async renewAll(): Promise<void> {
    await this.db.getRepository(Slices).update({ state: 'rendering' }, { leaseUntil: this.leaseEnd() });
  }

  /**
   * What a node was rendering of a trace waits again.
   * @param ended the node ended by itself: counted against the slice
   * @returns the most that nodes have ended over one of these slices; null where it was rendering none
   */
  async release(traceId: string, nodeName: string, ended: boolean): Promise<number | null> {
    const [rows] = await this.db.query<[{ crashes: number }[]]>(
      `UPDATE slice SET ${WAITS_AGAIN}, crashes = crashes + $3
        WHERE trace_id = $1 AND node_name = $2 AND state = 'rendering' RETURNING crashes`,
      [traceId, nodeName, ended ? 1 : 0],
    );
    return rows.length ? Math.max(...rows.map((r) => r.crashes)) : null;
  }
  /** As release(), of whatever trace. @returns the traces of which it was rendering slices */
  async releaseAll(nodeName: string, ended: boolean): Promise<string[]> {
    const [rows] = await this.db.query<[{ traceId: string }[]]>(
      `UPDATE slice SET ${WAITS_AGAIN}, crashes = crashes + $2 WHERE node_name = $1 AND state = 'rendering'
        RETURNING trace_id "traceId"`,
      [nodeName, ended ? 1 : 0],
    );
    return [...new Set(rows.map((r) => r.traceId))];
  }
  /** What anybody was rendering of a trace waits again. */
  async releaseOf(traceId: string): Promise<void> {
    await this.db.query(`UPDATE slice SET ${WAITS_AGAIN} WHERE trace_id = $1 AND state = 'rendering'`, [traceId]);
  }
  async mostCrashes(traceId: string): Promise<number> {
    return (await this.db.getRepository(Slices).maximum('crashes', { traceId })) ?? 0;
  }
  /** Slices whose lease ran out wait again. */
  async sweep(now: Date): Promise<void> {
    await this.db.query(`UPDATE slice SET ${WAITS_AGAIN} WHERE state = 'rendering' AND lease_until < $1`, [now]);
  }
  /** Asked for again, a trace is tried again from nought; what is done stays. */
  async forgive(traceId: string): Promise<void> {
    await this.db.getRepository(Slices).update({ traceId }, { crashes: 0 });
  }

  /** 0 … 1 of the rows. */
  async doneShare(traceId: string): Promise<number> {
    const [row] = await this.db.query<[{ share: number }]>(
      `SELECT coalesce(sum(to_row - from_row) FILTER (WHERE state = 'done')::float8 / sum(to_row - from_row), 0) share
        FROM slice WHERE trace_id = $1`,
      [traceId],
    );
    return row.share;
  }

  async drop(traceId: string): Promise<void> {
    await this.db.transaction(async (m) => {
      await m.delete(Slices, { traceId });
      await m.update(Traces, { id: traceId }, { cut: null });
    });
    await this.films.drop(traceId);
  }

  /** Of many traces at once, in the order of their rows. */
  async view(traceIds: readonly string[]): Promise<Map<string, QueueTrace['slices']>> {
    const rows = await this.db
      .getRepository(Slices)
      .find({ where: { traceId: In(traceIds) }, order: { fromRow: 'ASC' } });
    const out = new Map<string, QueueTrace['slices']>();
    for (const s of rows) out.set(s.traceId, [...(out.get(s.traceId) ?? []), viewOf(s)]);
    return out;
  }

  private async current(sliceId: string, token: string): Promise<SliceRow & { token: string }> {
    const slice = await this.db.getRepository(Slices).findOneBy({ id: sliceId, token, state: 'rendering' });
    if (!slice) throw stale();
    return { ...slice, token };
  }
}

const viewOf = ({ fromRow, toRow, state, nodeName, result }: SliceRow): QueueTrace['slices'][number] => ({
  fromRow,
  toRow,
  state,
  nodeName,
  seconds: result?.seconds ?? null,
});
const filmOf = ({ id, traceId, token }: SliceRow & { token: string }): SliceFilm => ({ traceId, sliceId: id, token });
const stale = () =>
  new AppError('STALE_ATTEMPT', 'Another attempt has taken this slice over, or its trace was cancelled.');
const areWhole = (slices: readonly SliceRows[], tileRows: number): boolean =>
  slices.every((s, i) => s.fromRow === (slices[i - 1]?.toRow ?? 0) && s.toRow > s.fromRow) &&
  slices.at(-1)?.toRow === tileRows;
