import type { MigrationInterface, QueryRunner } from 'typeorm';

/** A trace that is finished and whose files could not be stored has a state of its own. */
export class Undelivered1764320000000 implements MigrationInterface {
  readonly name = 'Undelivered1764320000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE trace DROP CONSTRAINT ck_trace_state`);
    await q.query(
      `ALTER TABLE trace ADD CONSTRAINT ck_trace_state CHECK (state IN ('waiting', 'rendering', 'done', 'failed', 'undelivered', 'cancelled'))`,
    );
  }

  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
