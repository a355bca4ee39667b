import type { MigrationInterface, QueryRunner } from 'typeorm';

/** What people say of pictures. It is an edit like others: kept in the history, undone and redone. */
export class Reviews1764440000000 implements MigrationInterface {
  readonly name = 'Reviews1764440000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query(`
      CREATE TABLE review (
        render_id uuid CONSTRAINT pk_review PRIMARY KEY CONSTRAINT fk_review_render REFERENCES render (id) ON DELETE CASCADE,
        project_id uuid NOT NULL CONSTRAINT fk_review_project REFERENCES project (id) ON DELETE CASCADE,
        verdict text CONSTRAINT ck_review_verdict CHECK (verdict IN ('approved', 'rejected')),
        note text NOT NULL DEFAULT '',
        marks jsonb NOT NULL DEFAULT '[]',
        said_at timestamptz NOT NULL
      )`);
    await q.query(`CREATE INDEX ix_review_project ON review (project_id)`);
    await q.query(`
      CREATE TRIGGER keep_history AFTER INSERT OR UPDATE OR DELETE ON review
      FOR EACH ROW EXECUTE FUNCTION keep_history('render_id')`);
  }

  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
