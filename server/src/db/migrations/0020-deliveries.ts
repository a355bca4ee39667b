import type { MigrationInterface, QueryRunner } from 'typeorm';

/** What was delivered of a project, to be looked up and made again. */
export class Deliveries1764450000000 implements MigrationInterface {
  readonly name = 'Deliveries1764450000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query(`
      CREATE TABLE delivery (
        id uuid CONSTRAINT pk_delivery PRIMARY KEY,
        project_id uuid NOT NULL CONSTRAINT fk_delivery_project REFERENCES project (id) ON DELETE CASCADE,
        number int NOT NULL,
        asked jsonb NOT NULL,
        state text NOT NULL CONSTRAINT ck_delivery_state CHECK (state IN ('writing', 'done', 'failed')),
        error text,
        path text NOT NULL,
        pictures jsonb NOT NULL,
        files jsonb NOT NULL DEFAULT '[]',
        created_at timestamptz NOT NULL,
        CONSTRAINT uq_delivery_number UNIQUE (project_id, number)
      )`);
  }

  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
