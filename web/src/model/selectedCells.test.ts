import { describe, expect, it } from 'vitest';
import { type Grid, NOTHING, cellKey, select } from './selectedCells.ts';

const grid: Grid = { rows: ['a', 'b', 'c'], columns: ['x', 'y', 'z'], selectable: (k) => k !== 'b y' };
const keys = (s: typeof NOTHING) => [...s.keys].sort();

describe('choosing cells', () => {
  it('a click chooses one, a second with Ctrl adds, a third takes away', () => {
    let s = select(NOTHING, { type: 'only', key: 'a x' }, grid);
    s = select(s, { type: 'toggle', key: 'c z' }, grid);
    expect(keys(s)).toEqual(['a x', 'c z']);
    expect(keys(select(s, { type: 'toggle', key: 'a x' }, grid))).toEqual(['c z']);
  });
  it('Shift chooses the rectangle between, without cells that are left out', () => {
    const s = select(select(NOTHING, { type: 'only', key: 'a x' }, grid), { type: 'range', key: 'b y' }, grid);
    expect(keys(s)).toEqual(['a x', 'a y', 'b x']);
  });
  it('a header chooses its row or column; adding a whole one again takes it away', () => {
    const s = select(NOTHING, { type: 'row', id: 'b', add: false }, grid);
    expect(keys(s)).toEqual(['b x', 'b z']);
    expect(keys(select(s, { type: 'row', id: 'b', add: true }, grid))).toEqual([]);
    expect(keys(select(s, { type: 'column', id: 'x', add: true }, grid))).toEqual(['a x', 'b x', 'b z', 'c x']);
  });
  it('arrows move within the board and Shift extends', () => {
    let s = select(NOTHING, { type: 'move', dx: 1, dy: 0, extend: false }, grid);
    expect(s.cursor).toBe(cellKey('a', 'x'));
    s = select(s, { type: 'move', dx: -1, dy: 1, extend: false }, grid);
    expect(s.cursor).toBe('b x');
    expect(keys(select(s, { type: 'move', dx: 0, dy: 1, extend: true }, grid))).toEqual(['b x', 'c x']);
  });
});
