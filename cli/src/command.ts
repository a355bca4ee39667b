// What a command is, and what it works with.
import type { Command } from 'commander';
import type { Api } from './api.ts';
import type { ExitCode } from './exit.ts';
import type { Output } from './output.ts';

export interface Context {
  readonly api: Api;
  readonly output: Output;
}
/** Puts a command among the others; it is given what it needs when it runs. */
export type AddCommand = (
  program: Command,
  run: (work: (c: Context) => Promise<ExitCode | void>) => Promise<void>,
) => void;
