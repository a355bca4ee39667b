import { expect, it } from 'vitest';
import { fittedRange } from './fittedRange.ts';

it('the range of a depth picture is what it holds, without the sky', () => {
  expect(fittedRange([1000, 3, 8, 5, 1000], 1000)).toEqual([3, 8]);
});
it('where there is nothing, or all is at one depth, it is up to the far plane', () => {
  expect(fittedRange([1000, 1000], 1000)).toEqual([0, 1000]);
  expect(fittedRange([4, 4], 1000)).toEqual([0, 1000]);
  expect(fittedRange([], 50)).toEqual([0, 50]);
});
