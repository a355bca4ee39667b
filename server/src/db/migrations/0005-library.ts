import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Options that outlive a project. */
export class Library1764300000000 implements MigrationInterface {
  readonly name = 'Library1764300000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query(
      `CREATE TABLE library_entry (id uuid CONSTRAINT pk_library_entry PRIMARY KEY, name text NOT NULL, looks jsonb NOT NULL, created_at timestamptz NOT NULL)`,
    );
    await q.query(`CREATE UNIQUE INDEX uq_library_name ON library_entry (lower(name))`);
  }

  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
