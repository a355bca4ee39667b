import type { MigrationInterface, QueryRunner } from 'typeorm';

/** Profiles of the user's own and exceptions from them; profiles say more of size, light and files. */
export class Profiles1764370000000 implements MigrationInterface {
  readonly name = 'Profiles1764370000000';

  async up(q: QueryRunner): Promise<void> {
    await q.query(
      `ALTER TABLE project ADD COLUMN profiles jsonb NOT NULL DEFAULT '[]', ADD COLUMN exceptions jsonb NOT NULL DEFAULT '[]'`,
    );
    // what was written before: an OpenEXR for each cell and a PNG of 8 bits
    const before = JSON.stringify({
      widthPx: null,
      integrator: 'full',
      floatAovs: [],
      files: {
        exr: { type: 'half', compression: 'zip', aovsApart: false, perCell: true },
        png: 8,
        tiff: null,
        jpeg: null,
        webp: null,
        graded: true,
      },
      nameTemplate: null,
    });
    for (const table of ['batch', 'trace', 'render'])
      await q.query(`UPDATE ${table} SET profile = $1::jsonb || profile`, [before]);
  }

  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
