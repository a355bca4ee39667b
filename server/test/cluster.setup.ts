// One PostgreSQL for all tests of the server: to make and start one for each file took longer than many of them.
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { TestProject } from 'vitest/node';
import { startPostgres } from '../src/main/postgres.ts';

export default async function shareCluster({ provide }: TestProject): Promise<() => Promise<void>> {
  const home = await mkdtemp(join(tmpdir(), 'variscen-tests-'));
  const cluster = await startPostgres(join(home, 'database'), () => undefined, {
    settings: { max_connections: '200', fsync: 'off' }, // each server takes up to 17; nothing outlives the tests
  });
  provide('clusterUrl', cluster.url);
  return async () => {
    await cluster.stop();
    await rm(home, { recursive: true, force: true });
  };
}
