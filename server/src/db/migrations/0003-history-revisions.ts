import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * Every edit of a project is a step that can be taken back; scene revisions are offered before they are in force;
 * cameras have what is worked with them.
 */
export class HistoryRevisions1764200000000 implements MigrationInterface {
  readonly name = 'HistoryRevisions1764200000000';

  async up(q: QueryRunner): Promise<void> {
    for (const sql of [
      `ALTER TABLE scene_revision ADD COLUMN state text NOT NULL DEFAULT 'accepted' CONSTRAINT ck_revision_state CHECK (state IN ('offered', 'accepted')), ADD COLUMN match jsonb`,
      `ALTER TABLE scene_revision ALTER COLUMN state DROP DEFAULT`,
      // the constraint is looked at when the transaction ends, since a project and its revisions are deleted together
      `ALTER TABLE project ADD COLUMN revision_id uuid CONSTRAINT fk_project_revision REFERENCES scene_revision(id) DEFERRABLE INITIALLY DEFERRED, ADD COLUMN sets jsonb NOT NULL DEFAULT '[]'`,
      `UPDATE project p SET revision_id = (SELECT r.id FROM scene_revision r WHERE r.project_id = p.id ORDER BY r.number DESC LIMIT 1)`,
      // cameras that are there were placed with care: they stay where they are until somebody unlocks them
      `ALTER TABLE camera ADD COLUMN handling jsonb NOT NULL DEFAULT '{"locked": true, "aspectLocked": true, "notes": "", "guides": ["thirds"], "frames": null, "plate": null}'`,
      `ALTER TABLE camera ALTER COLUMN handling DROP DEFAULT`,
      // environment maps that were brought in: one list for all projects, told apart by what they show and what they
      // are called
      `CREATE TABLE environment_map (hash text NOT NULL, name text NOT NULL, width int NOT NULL, height int NOT NULL, created_at timestamptz NOT NULL, CONSTRAINT pk_environment_map PRIMARY KEY (hash, name))`,
      `CREATE TABLE history_step (id bigint GENERATED ALWAYS AS IDENTITY CONSTRAINT pk_history_step PRIMARY KEY, project_id uuid NOT NULL REFERENCES project(id) ON DELETE CASCADE, label text NOT NULL, state text NOT NULL CONSTRAINT ck_history_state CHECK (state IN ('done', 'undone')), created_at timestamptz NOT NULL)`,
      `CREATE INDEX ix_history_project ON history_step (project_id, id)`,
      `CREATE TABLE history_row (id bigint GENERATED ALWAYS AS IDENTITY CONSTRAINT pk_history_row PRIMARY KEY, step_id bigint NOT NULL REFERENCES history_step(id) ON DELETE CASCADE, table_name text NOT NULL, before jsonb, after jsonb)`,
      `CREATE INDEX ix_history_row_step ON history_row (step_id, id)`,
      // what a transaction that named its step does to these tables is kept as it was and as it is, cascades included.
      // A later migration that changes their columns empties history_step.
      `CREATE FUNCTION keep_history() RETURNS trigger LANGUAGE plpgsql AS $$
        DECLARE step text := current_setting('variscen.step', true);
        BEGIN
          IF step IS NOT NULL AND step <> '' THEN
            INSERT INTO history_row (step_id, table_name, before, after) VALUES (step::bigint, TG_TABLE_NAME, CASE WHEN TG_OP <> 'INSERT' THEN to_jsonb(OLD) END, CASE WHEN TG_OP <> 'DELETE' THEN to_jsonb(NEW) END);
          END IF;
          RETURN NULL;
        END $$`,
      ...['camera', 'look_option', 'variant', 'patch', 'pending'].map(
        (t) =>
          `CREATE TRIGGER keep_history AFTER INSERT OR UPDATE OR DELETE ON ${t} FOR EACH ROW EXECUTE FUNCTION keep_history()`,
      ),
      `CREATE TRIGGER keep_history AFTER UPDATE ON project FOR EACH ROW WHEN (OLD IS DISTINCT FROM NEW) EXECUTE FUNCTION keep_history()`,
    ])
      await q.query(sql);
  }

  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
