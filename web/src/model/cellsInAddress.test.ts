import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { cellsFromAddress, cellsToAddress } from './cellsInAddress.ts';
import { cellKey } from './selectedCells.ts';

const id = (n: number) => `${n.toString(16).padStart(8, '0')}-0000-4000-8000-000000000000`;
const rows = [1, 2, 3].map(id);
const columns = [11, 12, 13, 14].map(id);
const all = rows.flatMap((r) => columns.map((c) => cellKey(r, c)));

describe('selected cells in a link', () => {
  it('come back, whatever is selected and however rows and columns are ordered meanwhile', () => {
    fc.assert(
      fc.property(
        fc.subarray(all),
        fc.shuffledSubarray(rows, { minLength: 3 }),
        fc.shuffledSubarray(columns, { minLength: 4 }),
        (selected, rowsLater, columnsLater) => {
          const link = cellsToAddress(selected, { rows, columns });
          const back = cellsFromAddress(link, { rows: rowsLater, columns: columnsLater });
          expect(back.sort()).toEqual([...selected].sort());
        },
      ),
    );
  });
  it('name a whole row once', () => {
    expect(cellsToAddress(all.slice(0, 4), { rows, columns })).toBe('00000001.all');
  });
  it('are left out where their camera or variant is gone, and a link of nothing selects nothing', () => {
    const link = cellsToAddress([all[0]!, all[5]!], { rows, columns });
    expect(cellsFromAddress(link, { rows: rows.slice(1), columns })).toEqual([all[5]]);
    expect(cellsFromAddress('', { rows, columns })).toEqual([]);
    expect(cellsFromAddress('nonsense_.._all', { rows, columns })).toEqual([]);
  });
});
