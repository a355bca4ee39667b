import { describe, expect, it } from 'vitest';
import { bytes, duration, plural } from './format.ts';

describe('amounts', () => {
  it('of bytes use the unit that keeps them short', () => {
    expect([0, 999, 1000, 33_600_000, 1_440_000_000].map(bytes)).toEqual(['0 B', '999 B', '1 kB', '34 MB', '1.4 GB']);
  });
  it('of time are said as people do', () => {
    expect([0.42, 9.94, 59.6, 200, 3725].map(duration)).toEqual([
      '0.42 s',
      '9.9 s',
      '1 min 0 s',
      '3 min 20 s',
      '1 h 2 min',
    ]);
  });
  it('agree with their noun', () => {
    expect([plural(1, 'cell'), plural(1200, 'cell')]).toEqual(['1 cell', '1,200 cells']);
  });
});
