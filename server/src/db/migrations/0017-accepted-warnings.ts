import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Warnings of plans that somebody has accepted in a project, as they are said. */
export class AcceptedWarnings1764420000000 implements MigrationInterface {
  readonly name = 'AcceptedWarnings1764420000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE project ADD COLUMN accepted_warnings jsonb NOT NULL DEFAULT '[]'`);
  }

  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
