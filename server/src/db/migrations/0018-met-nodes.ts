import type { MigrationInterface, QueryRunner } from 'typeorm';

/** What the rays of a picture met, and whether pictures stay up to date by it. */
export class MetNodes1764430000000 implements MigrationInterface {
  readonly name = 'MetNodes1764430000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE render ADD COLUMN met text`);
    await q.query(`ALTER TABLE project ADD COLUMN stays_unmet boolean NOT NULL DEFAULT true`);
  }

  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
