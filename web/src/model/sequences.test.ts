import { describe, expect, it } from 'vitest';
import { framesText, linesOf } from './sequences.ts';

const lines = (traces: string[]) =>
  linesOf(
    traces,
    (t) => (t.startsWith('-') ? null : t[0]!),
    (t) => t,
  ).map((l) => [l.key, l.traces.join(' ')]);

describe('lines of traces', () => {
  it('hold neighbours of one sequence, and each of the others alone', () => {
    expect(lines(['a1', 'a2', '-x', '-y', 'b1', 'a3', 'a4'])).toEqual([
      ['a1', 'a1 a2'],
      ['-x', '-x'],
      ['-y', '-y'],
      ['b1', 'b1'],
      ['a3', 'a3 a4'],
    ]);
    expect(lines([])).toEqual([]);
  });
  it('say their frames, whatever order they ended in', () => {
    expect([framesText([]), framesText([7]), framesText([3, 1, 2, 9])]).toEqual(['', 'frame 7', 'frames 1-3, 9']);
  });
});
