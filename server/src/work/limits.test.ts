import { describe, expect, it } from 'vitest';
import { Lane, residentBytes } from './limits.ts';

const settled = () => new Promise((r) => setTimeout(r));

describe('a lane', () => {
  it('lets two through, and the next as soon as one has left, in their order', async () => {
    const lane = new Lane();
    const in_: number[] = [];
    const leaves: (() => void)[] = [];
    for (let i = 0; i < 5; i++)
      void lane.enter().then((leave) => {
        in_.push(i);
        leaves.push(leave);
      });
    await settled();
    expect(in_).toEqual([0, 1]);
    leaves[0]!();
    leaves[0]!(); // said twice, it counts once
    await settled();
    expect(in_).toEqual([0, 1, 2]);
    leaves[1]!();
    leaves[2]!();
    await settled();
    expect(in_).toEqual([0, 1, 2, 3, 4]);
  });
  it('forgets who gives up while it waits', async () => {
    const lane = new Lane();
    const [first, second] = [await lane.enter(), await lane.enter()];
    const giveUp = new AbortController();
    const waiting = lane.enter(giveUp.signal);
    const behind = lane.enter();
    giveUp.abort(new Error('not wanted any more'));
    await expect(waiting).rejects.toThrow('not wanted any more');
    first();
    (await behind)();
    second();
    // and all of it is free again
    for (const leave of [await lane.enter(), await lane.enter()]) leave();
  });
});

it('the memory of a process is told', async () => {
  expect(await residentBytes(process.pid)).toBeGreaterThan(20e6);
  expect(await residentBytes(2 ** 30)).toBe(0);
});
