import { access, constants } from 'node:fs/promises';
import { basename, extname } from 'node:path';
import type { Revision } from '@variscen/contract';
import type { AddCommand } from '../command.ts';
import { CommandError, EXIT } from '../exit.ts';
import { findProject } from '../find.ts';
import { plural } from '../output.ts';

interface Options {
  readonly project?: string;
  readonly name?: string;
  readonly metresPerUnit?: string;
}

export const importCommand: AddCommand = (program, run) => {
  program
    .command('import')
    .description('brings a scene file in: as a project of its own, or as a newer revision that waits to be accepted')
    .argument('<file>', '.glb, .gltf, .obj, .zip')
    .option('--project <name>', 'a project that is there')
    .option('--name <name>', 'what a new project is called (as the file)')
    .option('--metres-per-unit <number>', 'of a file that does not say')
    .action((file: string, options: Options) =>
      run(async ({ api, output }) => {
        await access(file, constants.R_OK).catch((e: Error) => {
          throw new CommandError(EXIT.USAGE, `“${file}” cannot be read: ${e.message}`);
        });
        const isNew = options.project === undefined;
        const project = isNew
          ? await api.call('createProject', { body: { name: options.name ?? basename(file, extname(file)) } })
          : await findProject(api, options.project!);
        output.note(`Sending ${basename(file)} …`);
        const query = options.metresPerUnit === undefined ? {} : { metresPerUnit: options.metresPerUnit };
        const params = { projectId: project.id };
        const revision = await api.upload('importScene', params, file, query).catch(async (e: unknown) => {
          // a project that was made for a scene that does not come in is of no use
          if (isNew) await api.call('deleteProject', { params, query: { records: 'drop' } }).catch(() => undefined);
          throw e;
        });
        output.say({ project: { id: project.id, name: project.name }, revision }, sentenceOf(project.name, revision));
      }),
    );
};

function sentenceOf(name: string, { number, state, report }: Revision): string {
  const what = `${plural(report.objects, 'object')}, ${plural(report.trianglesPlaced, 'triangle')}`;
  const remarks = report.faults.map((f) => `  ${f.subject}: ${f.message}`);
  const first =
    state === 'accepted'
      ? `“${name}” has its scene: ${what}.`
      : `Revision ${number} of “${name}” waits to be accepted on its Scene page: ${what}.`;
  return [first, ...remarks].join('\n');
}
