import type { MigrationInterface, QueryRunner } from 'typeorm';

/** The queue has an order that people make, traces can be paused, and settings have a place. */
export class QueueOrder1764360000000 implements MigrationInterface {
  readonly name = 'QueueOrder1764360000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE trace DROP CONSTRAINT ck_trace_state`);
    await q.query(
      `ALTER TABLE trace ADD CONSTRAINT ck_trace_state
        CHECK (state IN ('waiting', 'paused', 'rendering', 'done', 'failed', 'undelivered', 'cancelled'))`,
    );
    await q.query(
      `ALTER TABLE trace ADD COLUMN priority int NOT NULL DEFAULT 0,
        ADD COLUMN position double precision NOT NULL DEFAULT 0, ADD COLUMN expected_s double precision`,
    );
    await q.query(
      `UPDATE trace t SET position = o.n
        FROM (SELECT id, row_number() OVER (ORDER BY created_at, ordinal) n FROM trace) o WHERE o.id = t.id`,
    );
    await q.query(
      `CREATE INDEX ix_trace_order ON trace (priority DESC, position, id) WHERE state IN ('waiting', 'paused', 'rendering')`,
    );
    await q.query(`CREATE TABLE setting (key text CONSTRAINT pk_setting PRIMARY KEY, value jsonb NOT NULL)`);
  }

  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
