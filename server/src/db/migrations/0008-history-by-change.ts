import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Tables whose edits are kept in the history, with what tells their rows apart. */
const KEYS = {
  project: ['id'],
  camera: ['id'],
  look_option: ['id'],
  variant: ['id'],
  patch: ['id'],
  pending: ['project_id', 'destination'],
} as const;

/**
 * The history keeps of a changed row the columns that changed, and of a list of values the part that changed; edits of
 * one value that follow each other in a step are one. Whole rows are kept where one came or went. Rows that were kept
 * before stay as they are and can still be undone.
 */
export class HistoryByChange1764330000000 implements MigrationInterface {
  readonly name = 'HistoryByChange1764330000000';

  async up(q: QueryRunner): Promise<void> {
    // by column: how many entries of a list before the kept part, and after it, are the same
    await q.query(`ALTER TABLE history_row ADD COLUMN spliced jsonb NOT NULL DEFAULT '{}'`);
    await q.query(`
      CREATE FUNCTION same_ends(a jsonb, b jsonb, OUT first int, OUT rest int) LANGUAGE plpgsql IMMUTABLE AS $$
      DECLARE
        shorter int := least(jsonb_array_length(a), jsonb_array_length(b));
      BEGIN
        SELECT coalesce(min(n)::int - 1, shorter) INTO first
          FROM jsonb_array_elements(a) WITH ORDINALITY x(e, n)
          FULL JOIN jsonb_array_elements(b) WITH ORDINALITY y(e, n) USING (n)
          WHERE x.e IS DISTINCT FROM y.e;
        SELECT least(coalesce(min(m)::int - 1, shorter), shorter - first) INTO rest
          FROM (SELECT e, jsonb_array_length(a) - n + 1 AS m
                FROM jsonb_array_elements(a) WITH ORDINALITY x(e, n)) p
          FULL JOIN (SELECT e, jsonb_array_length(b) - n + 1 AS m
                FROM jsonb_array_elements(b) WITH ORDINALITY y(e, n)) s USING (m)
          WHERE p.e IS DISTINCT FROM s.e;
        first := least(first, shorter);
      END $$`);
    await q.query(`
      CREATE FUNCTION list_part(list jsonb, first int, rest int) RETURNS jsonb LANGUAGE sql IMMUTABLE AS $$
        SELECT coalesce(jsonb_agg(e ORDER BY n), '[]')
        FROM jsonb_array_elements(list) WITH ORDINALITY x(e, n)
        WHERE n > first AND n <= jsonb_array_length(list) - rest
      $$`);
    // the columns that tell the row apart are the trigger's arguments
    await q.query(`
      CREATE OR REPLACE FUNCTION keep_history() RETURNS trigger LANGUAGE plpgsql AS $$
      DECLARE
        step text := current_setting('variscen.step', true);
        was jsonb;
        is_now jsonb;
        parts jsonb := '{}';
        list text;
        ends record;
        earlier record;
      BEGIN
        IF step IS NULL OR step = '' THEN
          RETURN NULL;
        END IF;
        IF TG_OP <> 'UPDATE' THEN
          INSERT INTO history_row (step_id, table_name, before, after) VALUES (step::bigint, TG_TABLE_NAME,
            CASE WHEN TG_OP = 'DELETE' THEN to_jsonb(OLD) END, CASE WHEN TG_OP = 'INSERT' THEN to_jsonb(NEW) END);
          RETURN NULL;
        END IF;
        IF OLD IS NOT DISTINCT FROM NEW THEN
          RETURN NULL;
        END IF;

        SELECT jsonb_object_agg(o.key, o.value), jsonb_object_agg(o.key, n.value) INTO was, is_now
          FROM jsonb_each(to_jsonb(OLD)) o JOIN jsonb_each(to_jsonb(NEW)) n USING (key)
          WHERE o.value IS DISTINCT FROM n.value OR o.key = ANY (TG_ARGV);
        FOREACH list IN ARRAY ARRAY['base', 'changes'] LOOP
          CONTINUE WHEN NOT was ? list;
          SELECT * INTO ends FROM same_ends(was->list, is_now->list);
          parts := parts || jsonb_build_object(list, jsonb_build_array(ends.first, ends.rest));
          was := was || jsonb_build_object(list, list_part(was->list, ends.first, ends.rest));
          is_now := is_now || jsonb_build_object(list, list_part(is_now->list, ends.first, ends.rest));
        END LOOP;

        -- what this step did last to the same row is taken together with this
        SELECT r.id, r.before, r.after, r.spliced INTO earlier FROM history_row r
          WHERE r.step_id = step::bigint AND r.table_name = TG_TABLE_NAME
            AND NOT EXISTS (SELECT 1 FROM unnest(TG_ARGV) k
              WHERE coalesce(r.after, r.before)->k IS DISTINCT FROM to_jsonb(NEW)->k)
          ORDER BY r.id DESC LIMIT 1;
        IF earlier.before IS NULL AND earlier.after IS NOT NULL
            AND NOT EXISTS (SELECT 1 FROM history_row r WHERE r.step_id = step::bigint AND r.id > earlier.id) THEN
          DELETE FROM history_row WHERE id = earlier.id;
          was := NULL;
          is_now := to_jsonb(NEW);
          parts := '{}';
        ELSIF earlier.after = was AND earlier.spliced = parts AND earlier.before IS NOT NULL THEN
          DELETE FROM history_row WHERE id = earlier.id;
          was := earlier.before;
        END IF;
        IF was IS DISTINCT FROM is_now THEN
          INSERT INTO history_row (step_id, table_name, before, after, spliced)
            VALUES (step::bigint, TG_TABLE_NAME, was, is_now, parts);
        END IF;
        RETURN NULL;
      END $$`);
    for (const [table, keys] of Object.entries(KEYS)) {
      await q.query(`DROP TRIGGER keep_history ON ${table}`);
      const events = table === 'project' ? 'UPDATE' : 'INSERT OR UPDATE OR DELETE';
      const named = keys.map((k) => `'${k}'`).join(', ');
      await q.query(
        `CREATE TRIGGER keep_history AFTER ${events} ON ${table} FOR EACH ROW EXECUTE FUNCTION keep_history(${named})`,
      );
    }
    for (const [name, on] of [
      ['ix_trace_state', 'trace (state, finished_at)'],
      ['ix_trace_batch', 'trace (batch_id)'],
      ['ix_batch_project', 'batch (project_id)'],
      ['ix_output_trace', 'output (trace_id)'],
      ['ix_output_cell', 'output (camera_id, variant_id)'],
      ['ix_render_trace', 'render (trace_id)'],
      ['ix_render_project', 'render (project_id, created_at)'],
      ['ix_option_project', 'look_option (project_id, ordinal)'],
      ['ix_variant_project', 'variant (project_id, ordinal)'],
      ['ix_patch_project', 'patch (project_id)'],
    ] as const)
      await q.query(`CREATE INDEX ${name} ON ${on}`);
  }

  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
