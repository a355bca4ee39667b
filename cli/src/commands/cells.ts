import { CELL_STATES } from '@variscen/contract';
import type { AddCommand } from '../command.ts';
import { findCells, findProject } from '../find.ts';
import { plural, table } from '../output.ts';
import { findProfile } from './profiles.ts';
import { type CellOptions, withCells } from './options.ts';

type Options = Omit<CellOptions, 'profile'> & { readonly profile?: string };

export const cellsCommand: AddCommand = (program, run) => {
  const command = program
    .command('cells')
    .description('lists cells with their states and their latest renders')
    .argument('<project>', 'its name or id')
    .option('-p, --profile <name>', 'by this profile (the latest of any)');
  withCells(
    command,
    CELL_STATES.filter((s) => s !== 'excluded'),
  ).action((called: string, options: Options) =>
    run(async ({ api, output }) => {
      const p = await findProject(api, called);
      const profile = options.profile === undefined ? null : await findProfile(api, p, options.profile);
      const cells = await findCells(api, p, options, profile?.id ?? null);
      const rows = cells.map(({ cell, camera, variant }) => [
        camera,
        variant,
        cell.status,
        cell.frames ? `${cell.frames.current}/${cell.frames.total}` : '',
        cell.render ? `v${String(cell.render.version).padStart(3, '0')}` : '',
        cell.render?.profile.name ?? '',
        cell.differences.map((d) => `${d.subject}: ${d.what}`).join('; '),
      ]);
      const text = `${table(['camera', 'variant', 'state', 'frames', 'version', 'profile', 'what has changed'], rows)}\n${plural(cells.length, 'cell')}`;
      output.say(
        cells.map(({ cell, camera, variant }) => ({ camera, variant, ...cell })),
        text,
      );
    }),
  );
};
