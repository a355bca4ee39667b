import { spawn } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { EXIT } from '../exit.ts';
import type { AddCommand } from '../command.ts';

/** The script of the checkout that this is run from. */
const SCRIPT = fileURLToPath(new URL('../../../node', import.meta.url));

export const nodeCommand: AddCommand = (program, run) => {
  program
    .command('node')
    .description('renders for a Variscen on another machine, as ./node does (variscen node --help)')
    .allowUnknownOption()
    .allowExcessArguments()
    .helpOption(false)
    .argument('[options...]')
    .action((given: readonly string[]) =>
      run(async () => {
        const child = spawn(SCRIPT, given, { stdio: 'inherit' });
        for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => child.kill(signal));
        const code = await new Promise<number | null>((done, failed) => {
          child.once('exit', done);
          child.once('error', failed);
        });
        return code === 0 ? EXIT.DONE : EXIT.FAILED;
      }),
    );
};
