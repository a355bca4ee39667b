import type { MigrationInterface, QueryRunner } from 'typeorm';
import { hashesAnew } from './hashesAnew.ts';

/** As 0006: cameras are told by what shows of them, and hashes are made anew from the inputs that are kept. */
export class SeenHashes1764400000000 implements MigrationInterface {
  readonly name = 'SeenHashes1764400000000';

  async up(q: QueryRunner): Promise<void> {
    await hashesAnew(q);
  }

  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
