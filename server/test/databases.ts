// Databases of the cluster that the tests share, each a copy of one that holds all tables and nothing else.
import { randomUUID } from 'node:crypto';
import { Client } from 'pg';
import { inject } from 'vitest';

declare module 'vitest' {
  export interface ProvidedContext {
    /** A database of the shared cluster, whose user may make others. */
    clusterUrl: string;
  }
}

const EMPTY = 'variscen_empty';
/** Of the lock that the first comer holds while it makes the tables; others wait. */
const MAKING = 20_261_130;

export interface OwnDatabase {
  readonly url: string;
  stop(): Promise<void>;
}

const urlOf = (name: string): string => {
  const url = new URL(inject('clusterUrl'));
  url.pathname = `/${name}`;
  return url.href;
};
async function withCluster<T>(work: (client: Client) => Promise<T>): Promise<T> {
  const client = new Client({ connectionString: inject('clusterUrl') });
  await client.connect();
  try {
    return await work(client);
  } finally {
    await client.end();
  }
}

/** @param fill makes all tables in the database at an address, and leaves it */
export async function emptyDatabase(fill: (url: string) => Promise<void>): Promise<OwnDatabase> {
  const name = `variscen_${randomUUID().replaceAll('-', '')}`;
  await withCluster(async (client) => {
    await client.query('SELECT pg_advisory_lock($1)', [MAKING]);
    const { rowCount } = await client.query('SELECT 1 FROM pg_database WHERE datname = $1', [EMPTY]);
    if (!rowCount) {
      await client.query(`CREATE DATABASE ${name}`);
      await fill(urlOf(name));
      await client.query(`ALTER DATABASE ${name} RENAME TO ${EMPTY}`);
    }
    await client.query(`CREATE DATABASE ${name} TEMPLATE ${EMPTY}`);
  });
  return {
    url: urlOf(name),
    stop: () => withCluster(async (client) => void (await client.query(`DROP DATABASE ${name} WITH (FORCE)`))),
  };
}
