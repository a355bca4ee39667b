// The entries that pg-boss hands out: one for each trace that waits, in the order that people gave the traces.
// A trace's row says what is true. An entry that does not fit its row (a crash between two statements, an entry that
// pg-boss let go after weeks) is put right by reconcile().
import PgBoss from 'pg-boss';
import type { DataSource, EntityManager } from 'typeorm';
import { GrowingIds } from './growingIds.ts';

const QUEUE = 'traces';
/** pg-boss hands out the highest first. */
const FIRST_RANK = 1_000_000_000;
const AT_ONCE = 1000;

export interface Entry {
  readonly id: string;
  readonly traceId: string;
}

export class Entries {
  private readonly boss: PgBoss;
  private readonly ids = new GrowingIds();
  /** Seen without an entry at the last look. */
  private suspects = new Set<string>();

  constructor(
    databaseUrl: string,
    private readonly db: DataSource,
    private readonly now: () => Date,
    onError: (e: Error) => void,
  ) {
    this.boss = new PgBoss({ connectionString: databaseUrl, schema: 'queue', max: 3 });
    this.boss.on('error', onError);
  }

  async start(): Promise<void> {
    await this.boss.start();
    await this.boss.createQueue(QUEUE, {
      name: QUEUE,
      policy: 'standard',
      retryLimit: 1000,
      retryDelay: 0,
      expireInSeconds: 23 * 3600,
    });
  }
  async stop(): Promise<void> {
    await this.boss.stop({ graceful: false, wait: true });
  }

  /**
   * Of traces that wait from here on, in this order, in the caller's transaction: rows and entries are there together
   * or not at all.
   * @param where behind all that wait, or at the place that they had
   */
  async add(m: EntityManager, traceIds: readonly string[], where: 'last' | 'as before' = 'last'): Promise<void> {
    const db = {
      executeSql: async (text: string, values: unknown[]) => ({
        rows: (await m.query<unknown[]>(text, values)) as never[],
      }),
    };
    const jobs = traceIds.map((traceId) => ({ id: this.ids.next(this.now()), name: QUEUE, data: { traceId } }));
    for (let from = 0; from < jobs.length; from += AT_ONCE)
      await this.boss.insert(jobs.slice(from, from + AT_ONCE), { db } as PgBoss.InsertOptions);
    await m.query(
      `UPDATE trace t SET job_id = x.job FROM unnest($1::uuid[], $2::uuid[]) x(trace, job) WHERE t.id = x.trace`,
      [traceIds, jobs.map((j) => j.id)],
    );
    if (where === 'last')
      await m.query(
        `UPDATE trace t SET position = x.n + (
            SELECT coalesce(max(position), 0) FROM trace WHERE state IN ('waiting', 'paused', 'rendering'))
          FROM unnest($1::uuid[]) WITH ORDINALITY x(trace, n) WHERE t.id = x.trace`,
        [traceIds],
      );
    await this.rank(m);
  }

  /** Gives the entries the order of their traces. */
  async rank(m: EntityManager): Promise<void> {
    await m.query(
      `UPDATE queue.job j SET priority = ${FIRST_RANK} - o.n
        FROM (SELECT job_id, row_number() OVER (ORDER BY priority DESC, position, id)::int n FROM trace WHERE state = 'waiting') o
        WHERE j.name = '${QUEUE}' AND j.id = o.job_id AND j.priority <> ${FIRST_RANK} - o.n`,
    );
  }

  async next(): Promise<Entry | null> {
    const [job] = await this.boss.fetch<{ traceId: string }>(QUEUE);
    return job ? { id: job.id, traceId: job.data.traceId } : null;
  }
  /** As next(), of those whose trace takes no more than so many bytes. */
  async nextWithin(bytes: number): Promise<Entry | null> {
    const [rows] = await this.db.query<[Entry[]]>(
      `UPDATE queue.job SET state = 'active', started_on = now()
        WHERE name = '${QUEUE}' AND id = (SELECT j.id FROM queue.job j JOIN trace t ON t.job_id = j.id
          WHERE j.name = '${QUEUE}' AND j.state IN ('created', 'retry') AND t.state = 'waiting' AND t.planned_bytes <= $1
          ORDER BY j.priority DESC LIMIT 1 FOR UPDATE OF j SKIP LOCKED)
        RETURNING id, data->>'traceId' "traceId"`,
      [bytes],
    );
    return rows[0] ?? null;
  }
  async done(id: string | null): Promise<void> {
    if (id) await this.boss.complete(QUEUE, id);
  }
  /** Waits again, at its place. */
  async giveBack(id: string | null): Promise<void> {
    if (id) await this.boss.fail(QUEUE, id, { reason: 'the node is gone' }); // goes to retry at once
  }
  async remove(ids: readonly (string | null)[]): Promise<void> {
    const known = ids.filter((id) => id !== null);
    for (let from = 0; from < known.length; from += AT_ONCE)
      await this.boss.cancel(QUEUE, known.slice(from, from + AT_ONCE));
  }

  /**
   * Traces that wait and have no entry that would be handed out, at two looks in a row, get one. Returns how many.
   * Entries never wait for a time of day: one that seems to is from before the clock was set back.
   */
  async reconcile(): Promise<number> {
    await this.db.query(
      `UPDATE queue.job SET start_after = now()
        WHERE name = '${QUEUE}' AND state IN ('created', 'retry') AND start_after > now()`,
    );
    const rows = await this.db.query<{ id: string }[]>(
      `SELECT t.id FROM trace t LEFT JOIN queue.job j ON j.name = '${QUEUE}' AND j.id = t.job_id
        WHERE t.state = 'waiting' AND (j.id IS NULL OR j.state NOT IN ('created', 'retry'))`,
    );
    const stranded = rows.map((r) => r.id).filter((id) => this.suspects.has(id));
    this.suspects = new Set(rows.map((r) => r.id));
    if (stranded.length) await this.db.transaction((m) => this.add(m, stranded, 'as before'));
    return stranded.length;
  }
}
