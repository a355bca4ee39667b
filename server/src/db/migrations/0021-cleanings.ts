import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Files of older pictures that were put aside. */
export class Cleanings1764460000000 implements MigrationInterface {
  readonly name = 'Cleanings1764460000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query(`
      CREATE TABLE cleaning (
        id uuid CONSTRAINT pk_cleaning PRIMARY KEY,
        project_id uuid NOT NULL CONSTRAINT fk_cleaning_project REFERENCES project (id) ON DELETE CASCADE,
        state text NOT NULL CONSTRAINT ck_cleaning_state CHECK (state IN ('aside', 'undone', 'gone')),
        renders jsonb NOT NULL,
        files jsonb NOT NULL,
        created_at timestamptz NOT NULL
      )`);
    // which of them has its files; null: they lie where they were put
    await q.query(
      `ALTER TABLE render ADD COLUMN cleaning_id uuid CONSTRAINT fk_render_cleaning REFERENCES cleaning (id) ON DELETE SET NULL`,
    );
  }

  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
