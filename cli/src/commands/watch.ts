import { setTimeout as sleep } from 'node:timers/promises';
import type { BatchSummary, Queue } from '@variscen/contract';
import { Presets, SingleBar } from 'cli-progress';
import type { AddCommand, Context } from '../command.ts';
import { CommandError, EXIT, type ExitCode } from '../exit.ts';

const LOOK_MS = 1000;
/** A server that is restarted is waited for. */
const MOST_MISSED = 60;

export const watchCommand: AddCommand = (program, run) => {
  program
    .command('watch')
    .description('waits until a batch has ended, and says what came of it')
    .argument('[batch]', 'its id (the one that renders or waits first)')
    .action((batchId: string | undefined) =>
      run(async (c): Promise<ExitCode> => {
        const id = batchId ?? (await c.api.call('queue', {})).batches[0]?.id;
        if (id === undefined) throw new CommandError(EXIT.USAGE, 'No batch renders or waits.', 'NO_BATCH');
        return watchBatch(c, id);
      }),
    );
};

export async function watchBatch(c: Context, batchId: string): Promise<ExitCode> {
  const bar = c.output.isJson || !c.output.streams.isTerminal ? null : newBar();
  let missed = 0;
  try {
    for (;;) {
      const seen = await look(c, batchId).catch((e: unknown) => {
        if (!(e instanceof CommandError) || e.exit !== EXIT.UNREACHABLE || ++missed > MOST_MISSED) throw e;
        return null;
      });
      if (seen) {
        missed = 0;
        bar?.setTotal(seen.all);
        bar?.update(seen.done, { text: seen.summary.text });
        if (seen.summary.endedAt !== null) return said(c, seen.summary, bar);
      }
      await sleep(LOOK_MS);
    }
  } finally {
    bar?.stop();
  }
}

function newBar(): SingleBar {
  const bar = new SingleBar({ format: '{bar} {percentage} % · {text}', hideCursor: true }, Presets.rect);
  bar.start(1, 0, { text: '' });
  return bar;
}

interface Seen {
  readonly summary: BatchSummary;
  readonly all: number;
  /** Cells that ended, and shares of those that render. */
  readonly done: number;
}
async function look({ api }: Context, batchId: string): Promise<Seen> {
  const summary = await api.call('batchSummary', { params: { batchId } });
  const { done, failed, cancelled, open } = summary.cells;
  const queue: Queue | null = open > 0 ? await api.call('queue', {}) : null;
  const rendering = (queue?.traces ?? []).filter((t) => t.batchId === batchId && t.state === 'rendering');
  const shares = rendering.reduce((n, t) => n + t.fraction * t.cells.length, 0);
  return { summary, all: done + failed + cancelled + open, done: done + failed + cancelled + shares };
}

function said({ output }: Context, summary: BatchSummary, bar: SingleBar | null): ExitCode {
  bar?.stop();
  const failed = summary.failed.map((f) => `Failed: ${f.cells}: ${f.error}`);
  output.say(summary, [summary.text, ...failed].join('\n'));
  return summary.cells.failed > 0 || summary.cells.cancelled > 0 ? EXIT.FAILED : EXIT.DONE;
}
