import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { framesIn, picturesAt, rangesOf, readRanges, sayFrames, sayRanges } from './frameRanges.ts';

describe('frames as they are written', () => {
  it.each([
    ['1-4, 7', [1, 2, 3, 4, 7]],
    ['0', [0]],
    ['10-20 by 5', [10, 15, 20]],
    ['10-19 by 5', [10, 15]],
    [' 3 – 5 ,4-6,, 5 ', [3, 4, 5, 6]],
    ['60, 1-2', [1, 2, 60]],
  ])('“%s” are %j', (text, frames) => {
    const ranges = readRanges(text);
    if (typeof ranges === 'string') throw new Error(ranges);
    expect(framesIn(ranges)).toEqual(frames);
    expect(picturesAt(ranges)).toEqual(frames);
  });
  it.each([
    ['', 'Write frames'],
    ['one', '“one” is no range'],
    ['1-', '“1-” is no range'],
    ['-3', 'is no range'],
    ['1.5', 'is no range'],
    ['9-3', 'ends before it begins'],
    ['1-9 by 0', 'a step outside 1 to 1000'],
    ['5-2000000', 'the last frame that there can be'],
    ['0-99999', 'These are 100000 frames, and a camera has 10000 at most'],
    [Array.from({ length: 101 }, (_, i) => i).join(), 'no more than 100 ranges'],
  ])('“%s” is refused', (text, why) => {
    expect(readRanges(text)).toContain(why);
  });
  it('are one picture where there are none', () => {
    expect(picturesAt(null)).toEqual([null]);
  });
  it('are said and read as the same frames, whatever they are', () => {
    const frames = fc.uniqueArray(fc.nat(300), { minLength: 1, maxLength: 60 }).map((f) => f.sort((a, b) => a - b));
    fc.assert(
      fc.property(frames, (given) => {
        const ranges = rangesOf(given);
        expect(framesIn(ranges)).toEqual(given);
        expect(readRanges(sayRanges(ranges))).toEqual(ranges);
      }),
    );
  });
  it('are said in few words', () => {
    expect(sayFrames([1, 2, 3, 4, 9, 12, 20, 25, 30])).toBe('1-4, 9, 12, 20-30 by 5');
    expect(sayFrames([4])).toBe('4');
    expect(sayFrames([4, 5])).toBe('4-5');
  });
});
