import type { Render } from '@variscen/contract';
import { describe, expect, it } from 'vitest';
import { culledWords } from './culledWords.ts';

const render = (of: Partial<Render>) =>
  ({ leftOut: null, droppedObjects: 0, simplifiedObjects: 0, inPartObjects: 0, ...of }) as Render;
const lost = { atMostShare: 0.0043, pixels: 100, doubtedPixels: 3, most: [] };

describe('what a cell says of how its picture was culled', () => {
  it('is nothing where nothing can be missing', () => {
    expect(culledWords(render({}))).toBeNull();
  });
  it('is the way, with what it cost at most', () => {
    const words = culledWords(render({ leftOut: lost, droppedObjects: 41 }));
    expect(words?.short).toBe('lean, ≤ 0.43 %');
    expect(words?.long).toBe('41 objects left out, which cost at most 0.43 % of its light.');
    const long = (droppedObjects: number) =>
      culledWords(render({ leftOut: lost, droppedObjects, inPartObjects: 2 }))?.long;
    expect(long(41)).toContain('41 objects and pieces of 2 others left out');
    expect(long(0)).toContain('Pieces of 2 objects left out');
  });
  it('names both ways where both were gone', () => {
    expect(culledWords(render({ leftOut: lost, simplifiedObjects: 1 }))?.short).toBe('lean, ≤ 0.43 %, simplified');
    expect(culledWords(render({ simplifiedObjects: 1 }))?.short).toBe('simplified');
  });
});
