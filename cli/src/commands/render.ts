import { randomUUID } from 'node:crypto';
import type { AddCommand } from '../command.ts';
import { CommandError, EXIT, type ExitCode } from '../exit.ts';
import { plural } from '../output.ts';
import { type CellOptions, TO_RENDER, withCells, withProfile } from './options.ts';
import { faultsOf, planFor, sumOf } from './plan.ts';
import { watchBatch } from './watch.ts';

interface Options extends CellOptions {
  readonly wait?: boolean;
}

export const renderCommand: AddCommand = (program, run) => {
  const command = program
    .command('render')
    .description('queues cells: what was planned, or nothing')
    .argument('<project>', 'its name or id')
    .option('-w, --wait', 'until the batch has ended');
  withProfile(withCells(command, TO_RENDER)).action((called: string, options: Options) =>
    run(async (c): Promise<ExitCode> => {
      const { projectId, profileId, separately, wanted, plan } = await planFor(c, called, options);
      if (plan.errors.length) throw new CommandError(EXIT.PLAN, faultsOf(plan).join('\n'), 'PLAN_HAS_ERRORS');
      const batch = await c.api.call('createBatch', {
        params: { projectId },
        body: {
          cells: wanted,
          profileId,
          separately,
          planHash: plan.hash,
          orderId: randomUUID(),
        },
      });
      const said = `${sumOf(plan)}. Batch ${batch.id}`;
      if (!options.wait) {
        c.output.say(batch, `Queued ${plural(batch.traces, 'trace')}: ${said}`);
        return EXIT.DONE;
      }
      c.output.note(`Queued: ${said}`);
      return watchBatch(c, batch.id);
    }),
  );
};
