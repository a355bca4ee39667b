import type { MigrationInterface, QueryRunner } from 'typeorm';
import { hashesAnew } from './hashesAnew.ts';

/**
 * States are told by another hash: those of renders and traces are made anew from the inputs that are kept with them,
 * so that nothing becomes old by it.
 */
export class StateHashes1764310000000 implements MigrationInterface {
  readonly name = 'StateHashes1764310000000';

  async up(q: QueryRunner): Promise<void> {
    await hashesAnew(q);
  }

  async down(): Promise<void> {
    throw new Error('Migrations go forward only.');
  }
}
