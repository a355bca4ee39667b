import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { link, rm, stat } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { AddCommand } from '../command.ts';
import { findProject, oneOf } from '../find.ts';
import { CommandError, EXIT } from '../exit.ts';
import { megabytes } from '../output.ts';

interface Options {
  readonly option: readonly string[];
}
const more = (value: string, before: readonly string[]): readonly string[] => [...before, value];

export const exportCommand: AddCommand = (program, run) => {
  program
    .command('export')
    .description('writes the scene as GLB, with options of Materials as its material variants')
    .argument('<project>', 'its name or id')
    .argument('<file>', 'a new file')
    .option('-o, --option <name>', 'this option of Materials; may be given again', more, [])
    .action((called: string, file: string, { option }: Options) =>
      run(async ({ api, output }) => {
        const p = await findProject(api, called);
        const materials = p.options.filter((o) => o.facet === 'materials');
        const options = option.map((name) => oneOf(materials, name, 'option of Materials').id).join(',');
        const response = await api.download('exportScene', { projectId: p.id }, { options });
        const bytes = await writeNew(file, response);
        output.say({ file, bytes }, `${file}: ${megabytes(bytes)}`);
      }),
    );
};

/** Whole or not at all, and never over a file. @returns its bytes */
async function writeNew(file: string, response: Response): Promise<number> {
  const part = `${file}.${randomUUID()}.part`;
  try {
    await pipeline(Readable.fromWeb(response.body as never), createWriteStream(part, { flags: 'wx', flush: true }));
    await link(part, file);
    return (await stat(file)).size;
  } catch (e) {
    const { code, message } = e as NodeJS.ErrnoException;
    if (code === 'EEXIST')
      throw new CommandError(EXIT.USAGE, `“${file}” is there already, and nothing is overwritten.`);
    throw new CommandError(EXIT.FAILED, `“${file}” cannot be written: ${message}`);
  } finally {
    await rm(part, { force: true });
  }
}
