import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * The first tables. Rules of concurrency are constraints: versions and paths are never given twice, whatever two
 * requests do at once.
 */
export class First1764030000000 implements MigrationInterface {
  readonly name = 'First1764030000000';

  async up(q: QueryRunner): Promise<void> {
    const owned = 'project_id uuid NOT NULL REFERENCES project(id) ON DELETE CASCADE';
    for (const sql of [
      `CREATE TABLE project (id uuid CONSTRAINT pk_project PRIMARY KEY, name text NOT NULL, name_template text NOT NULL, base jsonb NOT NULL, created_at timestamptz NOT NULL)`,
      `CREATE TABLE scene_revision (id uuid CONSTRAINT pk_scene_revision PRIMARY KEY, ${owned}, number int NOT NULL, scene_hash text NOT NULL, report jsonb NOT NULL, created_at timestamptz NOT NULL, CONSTRAINT uq_revision_number UNIQUE (project_id, number))`,
      `CREATE TABLE camera (id uuid CONSTRAINT pk_camera PRIMARY KEY, ${owned}, name text NOT NULL, ordinal int NOT NULL, settings jsonb NOT NULL)`,
      `CREATE UNIQUE INDEX uq_camera_name ON camera (project_id, lower(name))`,
      `CREATE TABLE look_option (id uuid CONSTRAINT pk_look_option PRIMARY KEY, ${owned}, facet text NOT NULL, name text NOT NULL, ordinal int NOT NULL, changes jsonb NOT NULL)`,
      `CREATE UNIQUE INDEX uq_option_name ON look_option (project_id, facet, lower(name))`,
      `CREATE TABLE variant (id uuid CONSTRAINT pk_variant PRIMARY KEY, ${owned}, name text NOT NULL, named_by_hand boolean NOT NULL, ordinal int NOT NULL, option_ids jsonb NOT NULL, excluded_camera_ids jsonb NOT NULL)`,
      `CREATE TABLE patch (id uuid CONSTRAINT pk_patch PRIMARY KEY, ${owned}, camera_id uuid NOT NULL REFERENCES camera(id) ON DELETE CASCADE, variant_id uuid REFERENCES variant(id) ON DELETE CASCADE, changes jsonb NOT NULL, CONSTRAINT uq_patch_place UNIQUE NULLS NOT DISTINCT (camera_id, variant_id))`,
      `CREATE TABLE pending (${owned}, destination text NOT NULL, changes jsonb NOT NULL, CONSTRAINT pk_pending PRIMARY KEY (project_id, destination))`,
      `CREATE TABLE batch (id uuid CONSTRAINT pk_batch PRIMARY KEY, ${owned}, profile jsonb NOT NULL, created_at timestamptz NOT NULL)`,
      `CREATE TABLE trace (id uuid CONSTRAINT pk_trace PRIMARY KEY, batch_id uuid NOT NULL REFERENCES batch(id) ON DELETE CASCADE, ${owned}, ordinal int NOT NULL, state text NOT NULL CONSTRAINT ck_trace_state CHECK (state IN ('waiting', 'rendering', 'done', 'failed', 'cancelled')), inputs jsonb NOT NULL, profile jsonb NOT NULL, cells jsonb NOT NULL,
        width_px int NOT NULL, height_px int NOT NULL, planned_bytes double precision NOT NULL, job_id uuid, token uuid, node_name text, lease_until timestamptz, attempts int NOT NULL, fraction double precision NOT NULL, samples_done int NOT NULL, error text, result jsonb, created_at timestamptz NOT NULL, started_at timestamptz, finished_at timestamptz)`,
      `CREATE INDEX ix_trace_project_state ON trace (project_id, state)`,
      `CREATE TABLE output (id uuid CONSTRAINT pk_output PRIMARY KEY, trace_id uuid NOT NULL REFERENCES trace(id) ON DELETE CASCADE, camera_id uuid NOT NULL, variant_id uuid NOT NULL, version int NOT NULL, path text NOT NULL, CONSTRAINT uq_output_version UNIQUE (camera_id, variant_id, version))`,
      `CREATE UNIQUE INDEX uq_output_path ON output (lower(path))`,
      `CREATE TABLE render (id uuid CONSTRAINT pk_render PRIMARY KEY, ${owned}, trace_id uuid NOT NULL, camera_id uuid NOT NULL, variant_id uuid NOT NULL, version int NOT NULL, hash text NOT NULL, inputs jsonb NOT NULL, profile jsonb NOT NULL, width_px int NOT NULL, height_px int NOT NULL, files jsonb NOT NULL, result jsonb NOT NULL, created_at timestamptz NOT NULL, CONSTRAINT uq_render_version UNIQUE (camera_id, variant_id, version))`,
      `CREATE INDEX ix_render_cell ON render (project_id, camera_id, variant_id)`,
    ])
      await q.query(sql);
  }

  /** Forward only: an older program refuses a newer data folder. */
  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
