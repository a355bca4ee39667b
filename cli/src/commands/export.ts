import type { AddCommand } from '../command.ts';
import { findProject, oneOf } from '../find.ts';
import { megabytes } from '../output.ts';
import { writeNew } from '../writeNew.ts';

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
