// Two edits clash where they make the same part of the same row differ.
import type { Change } from '@variscen/core/looks';
import { describe, expect, it } from 'vitest';
import { type RowEdit, clash } from './conflicts.ts';

const set = (target: string, value: number): Change => ({ target, property: 'light.intensity', value });
const row = (table: string, before: object | null, after: object | null, key = 'one'): RowEdit => ({
  table,
  key,
  before: before as never,
  after: after as never,
});
const pending = (before: Change[] | null, after: Change[] | null) =>
  row('pending', before && { changes: before }, after && { changes: after });

describe('two edits', () => {
  it.each<[string, RowEdit, RowEdit, boolean]>([
    [
      'of two columns do not clash',
      row('option', { name: 'a', notes: '' }, { name: 'b', notes: '' }),
      row('option', { name: 'a', notes: '' }, { name: 'a', notes: 'x' }),
      false,
    ],
    [
      'of one column do',
      row('option', { name: 'a' }, { name: 'b' }),
      row('option', { name: 'a' }, { name: 'c' }),
      true,
    ],
    [
      'to the same value do not',
      row('option', { name: 'a' }, { name: 'b' }),
      row('option', { name: 'a' }, { name: 'b' }),
      false,
    ],
    [
      'of two rows do not',
      row('option', { name: 'a' }, { name: 'b' }),
      row('option', { name: 'a' }, { name: 'c' }, 'other'),
      false,
    ],
    ['of a row that goes, do', row('option', { name: 'a' }, null), row('option', { name: 'a' }, { name: 'c' }), true],
    ['of two values in one list do not', pending(null, [set('A', 1)]), pending([set('B', 1)], [set('B', 2)]), false],
    ['of one value in one list do', pending([set('A', 1)], [set('A', 2)]), pending([set('A', 1)], [set('A', 3)]), true],
    [
      'of which one takes away what the other sets, do',
      pending([set('A', 1)], null),
      pending([set('A', 1)], [set('A', 3)]),
      true,
    ],
    [
      'of which one takes away what the other left, do not',
      pending([set('A', 1), set('B', 1)], [set('B', 1)]),
      pending([set('A', 1), set('B', 1)], [set('A', 1), set('B', 2)]),
      false,
    ],
  ])('%s', (_what, mine, theirs, expected) => {
    expect([clash(mine, theirs), clash(theirs, mine)]).toEqual([expected, expected]);
  });
});
