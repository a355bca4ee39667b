// Writes docs/looks-file.schema.json from the declared properties. Build first.
import { writeFile } from 'node:fs/promises';
import { looksFileJsonSchema } from '../contract/dist/index.js';

await writeFile(
  new URL('../docs/looks-file.schema.json', import.meta.url),
  `${JSON.stringify(looksFileJsonSchema(), null, 1)}\n`,
);
