import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Long traces are rendered in slices, whose films stay when a node ends. */
export class Slices1764350000000 implements MigrationInterface {
  readonly name = 'Slices1764350000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE trace ADD COLUMN cut jsonb`);
    await q.query(`
      CREATE TABLE slice (
        id uuid CONSTRAINT pk_slice PRIMARY KEY,
        trace_id uuid NOT NULL CONSTRAINT fk_slice_trace REFERENCES trace (id) ON DELETE CASCADE,
        from_row int NOT NULL,
        to_row int NOT NULL CONSTRAINT ck_slice_rows CHECK (to_row > from_row),
        state text NOT NULL CONSTRAINT ck_slice_state CHECK (state IN ('waiting', 'rendering', 'done')),
        token uuid,
        node_name text,
        lease_until timestamptz,
        crashes int NOT NULL DEFAULT 0,
        film_sha256 text,
        result jsonb,
        CONSTRAINT uq_slice_rows UNIQUE (trace_id, from_row)
      )`);
  }

  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
