// Options that several commands have.
import { CELL_STATES, type CellStatus, framesIn, readRanges } from '@variscen/contract';
import { type Command, InvalidArgumentError, Option } from 'commander';
import type { CellWish } from '../find.ts';

const more = (value: string, before: readonly string[] = []): readonly string[] => [...before, value];

/** What a person means by “to render”: what is not there as it would be now. */
export const TO_RENDER: readonly CellStatus[] = ['never', 'outdated', 'failed'];
const ALL: readonly CellStatus[] = CELL_STATES;

function statesOf(text: string): readonly CellStatus[] {
  if (text === 'all') return ALL.filter((s) => s !== 'excluded');
  const states = text.split(',').map((s) => s.trim());
  const unknown = states.find((s) => !(ALL as readonly string[]).includes(s));
  if (unknown !== undefined) throw new InvalidArgumentError(`“${unknown}” is none of ${ALL.join(', ')}, all.`);
  return states as CellStatus[];
}

export interface CellOptions extends CellWish {
  readonly profile: string;
  readonly separately?: boolean;
}
/** @param states of cells that are meant where none are named */
export const withCells = (command: Command, states: readonly CellStatus[]): Command =>
  command
    .addOption(
      new Option('-c, --camera <name>', 'this camera; may be given again (all)').argParser(more).default([], 'all'),
    )
    .addOption(
      new Option('-v, --variant <name>', 'this variant; may be given again (all)').argParser(more).default([], 'all'),
    )
    .addOption(
      new Option('-s, --status <states>', `cells in these states, with commas between, or all`)
        .argParser(statesOf)
        .default(states, states.join(',')),
    );
/** Of what is planned and rendered. */
export const withProfile = (command: Command): Command =>
  command
    .option('-p, --profile <name>', 'the profile', 'Sketch')
    .option('--separately', 'traces each lighting by itself, also where one trace could serve several')
    .addOption(
      new Option('-f, --frames <ranges>', 'of sequences these alone, for example “1-40, 60” (all)').argParser(framesOf),
    );
function framesOf(text: string): readonly number[] {
  const ranges = readRanges(text);
  if (typeof ranges === 'string') throw new InvalidArgumentError(ranges);
  return framesIn(ranges);
}
