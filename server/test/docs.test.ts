// What docs/ says of files is what the program reads and writes.
import { readFile } from 'node:fs/promises';
import { looksFileJsonSchema } from '@variscen/contract';
import { expect, it } from 'vitest';

it('docs/looks-file.schema.json is the schema of today (node scripts/write-schema.mjs makes it anew)', async () => {
  expect(JSON.parse(await readFile(new URL('../../docs/looks-file.schema.json', import.meta.url), 'utf8'))).toEqual(
    JSON.parse(JSON.stringify(looksFileJsonSchema())),
  );
});
