import type { Plan, PlanRequest } from '@variscen/contract';
import type { AddCommand, Context } from '../command.ts';
import { type FoundCell, findCells, findProject, wantedOf } from '../find.ts';
import { CommandError, EXIT, type ExitCode } from '../exit.ts';
import { duration, megabytes, plural, table } from '../output.ts';
import { findProfile } from './profiles.ts';
import { type CellOptions, TO_RENDER, withCells, withProfile } from './options.ts';

const FAULTS_SAID = 20;

export interface Planned {
  readonly projectId: string;
  readonly profileId: string;
  readonly separately: boolean;
  readonly cells: readonly FoundCell[];
  /** Of the cells. */
  readonly wanted: PlanRequest['cells'];
  readonly plan: Plan;
}
/** @throws CommandError where no cell is meant */
export async function planFor({ api }: Context, called: string, options: CellOptions): Promise<Planned> {
  const p = await findProject(api, called);
  const profile = await findProfile(api, p, options.profile);
  const cells = await findCells(api, p, options, profile.id);
  const wanted = await wantedOf(api, p.id, cells, options, profile.id);
  if (!wanted.length)
    throw new CommandError(EXIT.USAGE, `No cell of “${p.name}” is ${options.status.join(' or ')} there.`, 'NO_CELLS');
  const separately = options.separately === true;
  const plan = await api.call('plan', {
    params: { projectId: p.id },
    body: { cells: wanted, profileId: profile.id, separately },
  });
  return { projectId: p.id, profileId: profile.id, separately, cells, wanted, plan };
}

export const planCommand: AddCommand = (program, run) => {
  const command = program
    .command('plan')
    .description('says what rendering cells would do: traces, files, time, memory, faults; nothing is queued')
    .argument('<project>', 'its name or id');
  withProfile(withCells(command, TO_RENDER)).action((called: string, options: CellOptions) =>
    run(async (c): Promise<ExitCode> => {
      const planned = await planFor(c, called, options);
      c.output.say(planned.plan, textOf(planned));
      return planned.plan.errors.length ? EXIT.PLAN : EXIT.DONE;
    }),
  );
};

function textOf({ cells, plan }: Planned): string {
  const names = new Map(cells.map((x) => [`${x.cell.cameraId} ${x.cell.variantId}`, x]));
  const rows = plan.traces.map((t) => {
    const served = t.cells.map((x) => names.get(`${x.cameraId} ${x.variantId}`)!);
    return [
      served.map((x) => `${x.camera} in ${x.variant}`).join(', '),
      t.cells[0]!.frame ?? '',
      `${t.widthPx} × ${t.heightPx}`,
      t.samples,
      t.expectedS === null ? '—' : duration(t.expectedS),
      megabytes(t.totalBytes),
      t.cells.map((x) => x.path).join(', '),
    ];
  });
  return [
    table(['cells', 'frame', 'size', 'samples', 'expected', 'memory', 'files'], rows),
    sumOf(plan),
    ...plan.warnings.map((w) => `Note: ${w}`),
    ...faultsOf(plan),
  ].join('\n');
}
export function sumOf(plan: Plan): string {
  const pictures = plan.traces.reduce((n, t) => n + t.cells.length, 0);
  const what = plan.traces.some((t) => t.cells[0]!.frame !== null) ? 'picture' : 'cell';
  const times = plan.traces.map((t) => t.expectedS);
  const total = times.some((s) => s === null) ? null : times.reduce<number>((n, s) => n + s!, 0);
  const time = total === null ? '' : `, about ${duration(total)}`;
  return `${plural(pictures, what)} from ${plural(plan.traces.length, 'trace')}${time}, files up to ${megabytes(plan.mostFileBytes)}`;
}
export function faultsOf({ errors }: Plan): string[] {
  const said = errors.slice(0, FAULTS_SAID).map((e) => `Fault: ${e.message}`);
  return errors.length > FAULTS_SAID ? [...said, `and ${errors.length - FAULTS_SAID} more`] : said;
}
