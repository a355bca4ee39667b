import { defineConfig } from 'vitest/config';

// Packages are taken from their sources ("source" condition); only kernel threads run from the build, since a worker
// cannot load TypeScript.
const resolve = { conditions: ['source', 'node'] };
const setupFiles = ['./vitest.setup.js'];
const ssr = { resolve: { conditions: ['source', 'node'] } };
export default defineConfig({
  test: {
    // a file on each core; left to itself one core would stay idle
    maxWorkers: '100%',
    projects: [
      {
        resolve,
        ssr,
        test: {
          name: 'unit',
          setupFiles,
          include: ['{core,contract,demo,web}/src/**/*.test.ts', 'engine/test/**/*.test.ts', 'server/src/**/*.test.ts'],
          testTimeout: 60_000,
          // they keep nothing outside themselves: loading everything anew for each file took as long as a third of them
          isolate: false,
          server: { deps: { inline: [/@variscen/] } },
        },
      },
      {
        resolve,
        ssr,
        test: {
          name: 'page',
          // what draws, or needs a document; of one environment, so that a process goes on from file to file
          environment: './vitest.page.js',
          setupFiles: [...setupFiles, './web/src/testing.setup.ts'],
          include: ['web/src/**/*.test.tsx'],
          testTimeout: 60_000,
          // as above: loading took two thirds of the time
          isolate: false,
          server: { deps: { inline: [/@variscen/] } },
        },
      },
      {
        resolve,
        ssr,
        test: {
          name: 'integration',
          setupFiles,
          globalSetup: './server/test/cluster.setup.ts',
          include: ['{server,cli}/test/**/*.test.ts'],
          testTimeout: 120_000,
          hookTimeout: 180_000,
          // each file has a server, a database and a data folder of its own; loading took a quarter of the time
          isolate: false,
          server: { deps: { inline: [/@variscen/] } },
        },
      },
      {
        resolve,
        ssr,
        test: {
          name: 'browser',
          include: ['e2e/**/*.test.ts'],
          testTimeout: 400_000,
          hookTimeout: 240_000,
          sequence: { groupOrder: 1 },
          server: { deps: { inline: [/@variscen/] } },
        },
      },
    ],
  },
});
