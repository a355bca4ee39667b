import type { MigrationInterface, QueryRunner } from 'typeorm';

/** When a batch ended, and when that was told. What ended before counts as told. */
export class BatchEnds1764390000000 implements MigrationInterface {
  readonly name = 'BatchEnds1764390000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE batch ADD COLUMN ended_at timestamptz, ADD COLUMN told_at timestamptz`);
    await q.query(
      `UPDATE batch b SET ended_at = x.last, told_at = x.last FROM (
          SELECT batch_id, max(coalesce(finished_at, created_at)) last,
            bool_or(state IN ('waiting', 'paused', 'rendering')) is_open FROM trace GROUP BY batch_id) x
        WHERE b.id = x.batch_id AND NOT x.is_open`,
    );
    await q.query(`CREATE INDEX ix_batch_open ON batch (id) WHERE ended_at IS NULL`);
    await q.query(`CREATE INDEX ix_batch_ended ON batch (ended_at DESC)`);
  }

  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
