import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Parts of cameras' frames that are measured in all of their pictures. They are edits like others. */
export class Regions1764500000000 implements MigrationInterface {
  readonly name = 'Regions1764500000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query(`
      CREATE TABLE region (
        id uuid CONSTRAINT pk_region PRIMARY KEY,
        project_id uuid NOT NULL CONSTRAINT fk_region_project REFERENCES project (id) ON DELETE CASCADE,
        -- undone, a deletion brings regions back before their camera
        camera_id uuid NOT NULL CONSTRAINT fk_region_camera REFERENCES camera (id) ON DELETE CASCADE
          DEFERRABLE INITIALLY DEFERRED,
        name text NOT NULL,
        corners jsonb NOT NULL,
        created_at timestamptz NOT NULL
      )`);
    await q.query(`CREATE INDEX ix_region_camera ON region (camera_id)`);
    await q.query(`CREATE INDEX ix_region_project ON region (project_id)`);
    await q.query(`
      CREATE TRIGGER keep_history AFTER INSERT OR UPDATE OR DELETE ON region
      FOR EACH ROW EXECUTE FUNCTION keep_history('id')`);
  }

  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
