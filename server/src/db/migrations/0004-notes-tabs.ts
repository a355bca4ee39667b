import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * Notes and tags of options, notes of variants, a template of their names; steps of the history know the window that
 * they were made in. Steps that are there get the new columns' first values, so that they can still be taken back.
 */
export class NotesTabs1764290000000 implements MigrationInterface {
  readonly name = 'NotesTabs1764290000000';

  async up(q: QueryRunner): Promise<void> {
    const first: Readonly<Record<string, Readonly<Record<string, unknown>>>> = {
      look_option: { notes: '', tag: null },
      variant: { notes: '' },
      project: { variant_template: '{options}' },
    };
    for (const sql of [
      // what an earlier migration in the same transaction left to be checked at its end
      `SET CONSTRAINTS ALL IMMEDIATE`,
      `ALTER TABLE look_option ADD COLUMN notes text NOT NULL DEFAULT '', ADD COLUMN tag text`,
      `ALTER TABLE look_option ALTER COLUMN notes DROP DEFAULT`,
      `ALTER TABLE variant ADD COLUMN notes text NOT NULL DEFAULT ''`,
      `ALTER TABLE variant ALTER COLUMN notes DROP DEFAULT`,
      `ALTER TABLE project ADD COLUMN variant_template text NOT NULL DEFAULT '{options}'`,
      `ALTER TABLE project ALTER COLUMN variant_template DROP DEFAULT`,
      `ALTER TABLE history_step ADD COLUMN tab text`,
    ])
      await q.query(sql);
    for (const [table, values] of Object.entries(first))
      for (const image of ['before', 'after'])
        await q.query(
          `UPDATE history_row SET ${image} = $1::jsonb || ${image} WHERE table_name = $2 AND ${image} IS NOT NULL`,
          [JSON.stringify(values), table],
        );
  }

  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
