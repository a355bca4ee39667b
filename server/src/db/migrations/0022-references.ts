import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Pictures of others that were opened to be compared with. */
export class References1764470000000 implements MigrationInterface {
  readonly name = 'References1764470000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query(`
      CREATE TABLE reference_picture (
        id uuid CONSTRAINT pk_reference_picture PRIMARY KEY,
        project_id uuid NOT NULL CONSTRAINT fk_reference_picture_project REFERENCES project (id) ON DELETE CASCADE,
        name text NOT NULL,
        hash text NOT NULL,
        kind text NOT NULL CONSTRAINT ck_reference_picture_kind CHECK (kind IN ('exr', 'shown')),
        width_px int NOT NULL,
        height_px int NOT NULL,
        remarks jsonb NOT NULL,
        created_at timestamptz NOT NULL
      )`);
    await q.query(`CREATE INDEX ix_reference_picture_project ON reference_picture (project_id)`);
  }

  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
