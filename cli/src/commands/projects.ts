import type { AddCommand } from '../command.ts';
import { projectRow } from '../find.ts';
import { table } from '../output.ts';

export const projectsCommand: AddCommand = (program, run) => {
  program
    .command('projects')
    .description('lists the projects')
    .action(() =>
      run(async ({ api, output }) => {
        const projects = await api.call('listProjects', {});
        const text = projects.length
          ? table(['project', 'cameras', 'variants', 'renders', 'scene', 'id'], projects.map(projectRow))
          : 'There is no project yet. Import a scene: variscen import stall.glb';
        output.say(projects, text);
      }),
    );
};
