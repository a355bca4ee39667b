import { describe, expect, it } from 'vitest';
import type { Lately } from '@variscen/contract';
import { latelyDays } from './latelyDays.ts';

const done = (kind: Lately['kind'], at: string, text: string = kind): Lately => ({ kind, at, text, isUndone: false });
const now = new Date(2026, 10, 30, 9);
const at = (day: number, hour: number) => new Date(2026, 10, day, hour).toISOString();

describe('what was done lately', () => {
  it('stands day by day, the latest first', () => {
    const days = latelyDays([done('edit', at(30, 8)), done('batch', at(29, 23)), done('edit', at(12, 10))], now);
    expect(days.map((d) => [d.name, d.lines.length])).toEqual([
      ['Today', 1],
      ['Yesterday', 1],
      ['12 Nov 2026', 1],
    ]);
    expect(latelyDays([], now)).toEqual([]);
  });

  it('folds many edits in a row, and loses none', () => {
    const edits = (n: number) => Array.from({ length: n }, (_, i) => done('edit', at(30, 8), `Edit ${i}`));
    const lines = (list: Lately[]) =>
      latelyDays(list, now)[0]!.lines.map((l) => (l.kind === 'more' ? `${l.edits.length} more` : l.done.text));
    expect(lines(edits(4))).toEqual(['Edit 0', 'Edit 1', 'Edit 2', 'Edit 3']);
    expect(lines([...edits(9), done('batch', at(30, 7)), ...edits(1)])).toEqual([
      'Edit 0',
      'Edit 1',
      'Edit 2',
      '6 more',
      'batch',
      'Edit 0',
    ]);
  });
});
