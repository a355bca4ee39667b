import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Machines that render: the tokens of those that join, and what each has done. */
export class Machines1764380000000 implements MigrationInterface {
  readonly name = 'Machines1764380000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query(
      `CREATE TABLE machine (
        name text PRIMARY KEY,
        token_hash text UNIQUE,
        is_drained boolean NOT NULL DEFAULT false,
        budget_mib int,
        traces int NOT NULL DEFAULT 0,
        slices int NOT NULL DEFAULT 0,
        seconds float8 NOT NULL DEFAULT 0,
        paths float8 NOT NULL DEFAULT 0,
        seen_at timestamptz,
        created_at timestamptz NOT NULL DEFAULT now())`,
    );
    await q.query(`CREATE UNIQUE INDEX uq_machine_name ON machine (lower(name))`);
  }

  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
