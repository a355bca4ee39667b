import type { MigrationInterface, QueryRunner } from 'typeorm';

/** How often a node ended by itself while it rendered a trace: what ends nodes again and again is set aside. */
export class Crashes1764340000000 implements MigrationInterface {
  readonly name = 'Crashes1764340000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE trace ADD COLUMN crashes int NOT NULL DEFAULT 0`);
  }

  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
