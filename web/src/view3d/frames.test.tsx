// One picture at a time, however often it is asked; the page goes on meanwhile.
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { type FenceContext, Frames } from './frames.ts';

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

/** A graphics card that has drawn when it is told so. */
function slowCard() {
  const fences = new Set<object>();
  const card = { isDone: false, isLost: false };
  const gl = {
    fenceSync: () => {
      const fence = {};
      fences.add(fence);
      return fence;
    },
    deleteSync: (fence: object) => fences.delete(fence),
    getSyncParameter: () => (card.isDone ? 1 : 0),
    flush: () => undefined,
    isContextLost: () => card.isLost,
    ...{ SYNC_GPU_COMMANDS_COMPLETE: 0, SYNC_STATUS: 0, SIGNALED: 1 },
  } as unknown as FenceContext;
  const seen: string[] = [];
  const frames = new Frames(gl, { draw: () => seen.push('drawn'), stands: () => seen.push('stands') });
  return { card, frames, seen, fences };
}

it('draws once however often it is asked, and once more for what was asked meanwhile', () => {
  const { card, frames, seen, fences } = slowCard();
  for (let i = 0; i < 3; i++) frames.ask();
  vi.advanceTimersByTime(2000);
  expect(seen).toEqual(['drawn']); // it does not stand yet
  for (let i = 0; i < 3; i++) frames.ask();
  vi.advanceTimersByTime(2000);
  expect(seen).toEqual(['drawn']);
  expect(frames.isStill).toBe(false);
  card.isDone = true;
  vi.advanceTimersByTime(200);
  expect(seen).toEqual(['drawn', 'stands', 'drawn', 'stands']);
  expect(frames.isStill).toBe(true);
  expect(fences.size).toBe(0);
});

it('does not wait for ever for a card that is gone, and draws nothing after its end', () => {
  const { card, frames, seen } = slowCard();
  frames.ask();
  vi.advanceTimersByTime(100);
  card.isLost = true;
  vi.advanceTimersByTime(100);
  expect(seen).toEqual(['drawn', 'stands']);
  frames.ask();
  frames.end();
  frames.ask();
  vi.advanceTimersByTime(1000);
  expect(seen).toEqual(['drawn', 'stands']);
});
