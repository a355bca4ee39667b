import type { MigrationInterface, QueryRunner } from 'typeorm';

/**
 * Profiles say how far noise goes down, how much is denoised and which AOVs are written. What was planned before did
 * none of it.
 */
export class ProfileDenoiseAovs1764120000000 implements MigrationInterface {
  readonly name = 'ProfileDenoiseAovs1764120000000';

  async up(q: QueryRunner): Promise<void> {
    for (const table of ['batch', 'trace', 'render'])
      await q.query(
        `UPDATE ${table} SET profile = '{"noise": null, "denoise": 0, "textureCapPx": null, "displacement": {"edgePx": 4, "farM": 30, "maxTriangles": 300000}, "aovs": []}'::jsonb || profile`,
      );
  }

  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
