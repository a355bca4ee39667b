import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * Pictures of sequences: each is of a frame, and the traces of one cell's frames belong together. Cameras have ranges.
 */
export class Frames1764410000000 implements MigrationInterface {
  readonly name = 'Frames1764410000000';

  async up(q: QueryRunner): Promise<void> {
    for (const table of ['output', 'render']) {
      await q.query(`ALTER TABLE ${table} ADD COLUMN frame int`);
      await q.query(`ALTER TABLE ${table} DROP CONSTRAINT uq_${table}_version`);
      await q.query(
        `ALTER TABLE ${table} ADD CONSTRAINT uq_${table}_version
          UNIQUE NULLS NOT DISTINCT (camera_id, variant_id, frame, version)`,
      );
    }
    await q.query(`ALTER TABLE trace ADD COLUMN frame int`);
    await q.query(`ALTER TABLE trace ADD COLUMN sequence_id uuid`);
    // what stands in one row with a trace, and which of them is the first: of those to come, of those that have ended
    for (const [name, order] of [
      ['open', 'position'],
      ['ended', 'finished_at'],
    ])
      await q.query(
        `CREATE INDEX ix_trace_sequence_${name} ON trace (sequence_id, state, ${order}, id)
          WHERE sequence_id IS NOT NULL`,
      );

    // one range becomes a list of ranges, also where an edit may be taken back to it
    await q.query(
      `UPDATE camera SET handling = jsonb_set(handling, '{frames}', jsonb_build_array(handling->'frames'))
        WHERE jsonb_typeof(handling->'frames') = 'object'`,
    );
    for (const image of ['before', 'after'])
      await q.query(
        `UPDATE history_row SET ${image} =
            jsonb_set(${image}, '{handling,frames}', jsonb_build_array(${image}#>'{handling,frames}'))
          WHERE table_name = 'camera' AND jsonb_typeof(${image}#>'{handling,frames}') = 'object'`,
      );
  }

  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
