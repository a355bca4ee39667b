// The commands, and how each is typed.
import { readFile } from 'node:fs/promises';
import { Command, CommanderError, Option } from 'commander';
import { Api } from './api.ts';
import type { AddCommand, Context } from './command.ts';
import { cellsCommand } from './commands/cells.ts';
import { exportCommand } from './commands/export.ts';
import { importCommand } from './commands/import.ts';
import { nodeCommand } from './commands/node.ts';
import { planCommand } from './commands/plan.ts';
import { projectsCommand } from './commands/projects.ts';
import { renderCommand } from './commands/render.ts';
import { splitCommand } from './commands/split.ts';
import { watchCommand } from './commands/watch.ts';
import { CommandError, EXIT, type ExitCode } from './exit.ts';
import { Output, type Streams } from './output.ts';

interface GlobalOptions {
  readonly server: string;
  readonly tokenFile?: string;
  readonly json?: boolean;
}
const COMMANDS: readonly AddCommand[] = [
  projectsCommand,
  importCommand,
  cellsCommand,
  planCommand,
  renderCommand,
  watchCommand,
  exportCommand,
  splitCommand,
  nodeCommand,
];

/** @returns how it ended, as EXIT says */
export async function runCommand(args: readonly string[], streams: Streams): Promise<ExitCode> {
  const program = new Command('variscen')
    .description('Looks, plans and batches of Variscen from the command line.')
    .addOption(
      new Option('--server <address>', 'where Variscen is opened')
        .env('VARISCEN_SERVER')
        .default('http://127.0.0.1:4460'),
    )
    .addOption(
      new Option('--token-file <file>', 'the file with the token of people, where one is needed').env(
        'VARISCEN_TOKEN_FILE',
      ),
    )
    .option('--json', 'answers with one JSON document')
    .exitOverride()
    .configureOutput({ writeOut: streams.out, writeErr: streams.err })
    .showHelpAfterError('(variscen --help says what there is)');
  let exit: ExitCode = EXIT.DONE;
  const run = async (work: (c: Context) => Promise<ExitCode | void>) => {
    const { server, tokenFile, json } = program.opts<GlobalOptions>();
    const api = new Api({
      server: addressOf(server),
      token: tokenFile === undefined ? null : await tokenIn(tokenFile),
    });
    exit = (await work({ api, output: new Output(streams, json === true) })) ?? EXIT.DONE;
  };
  for (const add of COMMANDS) add(program, run);
  try {
    await program.parseAsync([...args], { from: 'user' });
    return exit;
  } catch (e) {
    return failed(e, streams, args.includes('--json'));
  }
}

function failed(e: unknown, streams: Streams, isJson: boolean): ExitCode {
  if (e instanceof CommanderError) return e.exitCode === 0 ? EXIT.DONE : EXIT.USAGE; // it has said so itself
  const { message, code, exit } = e instanceof CommandError ? e : new CommandError(EXIT.FAILED, String(e), 'INTERNAL');
  if (isJson) streams.out(`${JSON.stringify({ error: { code, message } }, null, 2)}\n`);
  else streams.err(`${message}\n`);
  return exit;
}

async function tokenIn(file: string): Promise<string> {
  const text = await readFile(file, 'utf8').catch((e: Error) => {
    throw new CommandError(EXIT.USAGE, `The token cannot be read: ${e.message}`);
  });
  return text.trim();
}
function addressOf(given: string): string {
  const text = given.includes('://') ? given : `http://${given}`;
  if (!URL.canParse(text)) throw new CommandError(EXIT.USAGE, `“${given}” is not an address.`);
  return new URL(text).origin;
}
