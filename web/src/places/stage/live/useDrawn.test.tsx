// What stays to be seen of the live render, and when what is under it may be drawn.
import { act, renderHook } from '@testing-library/react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { useDrawn } from './useDrawn.ts';

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());
const NONE = { whole: false, region: false };
const ALL = { whole: true, region: true };
const STILL_MS = 800;

function shown() {
  const waits: boolean[] = [];
  const { result, unmount } = renderHook(() => useDrawn((w) => waits.push(w)));
  act(() => result.current.came('whole', true));
  act(() => void vi.advanceTimersByTime(STILL_MS));
  waits.length = 0;
  return { result, waits, unmount };
}

it('a picture that was changed by itself stays until the next one comes; what is under it waits until that is good', () => {
  const { result, waits } = shown();
  act(() => result.current.stays(NONE, 3000));
  expect([result.current.drawn.whole, waits]).toEqual([true, [true]]);
  act(() => result.current.came('whole', false));
  act(() => void vi.advanceTimersByTime(5000));
  expect([result.current.drawn.whole, waits]).toEqual([true, [true]]);
  act(() => result.current.came('whole', true));
  act(() => void vi.advanceTimersByTime(STILL_MS - 1));
  expect(waits).toEqual([true]);
  act(() => void vi.advanceTimersByTime(1));
  expect(waits).toEqual([true, false]);
});

it('while one light after another is changed in it, what is under it waits until that is over', () => {
  const { result, waits } = shown();
  for (let step = 0; step < 5; step++) {
    act(() => result.current.stays(ALL, 3000));
    act(() => void vi.advanceTimersByTime(80));
    act(() => result.current.came('whole', true));
    act(() => void vi.advanceTimersByTime(200));
    expect([result.current.drawn.whole, waits.includes(false)]).toEqual([true, false]);
  }
  act(() => void vi.advanceTimersByTime(STILL_MS));
  expect([result.current.drawn.whole, waits.at(-1)]).toEqual([true, false]);
});

it('what is under one that does not get good, since others have the machine, waits ten seconds and no longer', () => {
  const { result, waits } = shown();
  act(() => result.current.stays(NONE, 3000));
  act(() => result.current.came('whole', false));
  act(() => void vi.advanceTimersByTime(9999));
  expect(waits).toEqual([true]);
  act(() => void vi.advanceTimersByTime(1));
  expect([result.current.drawn.whole, waits]).toEqual([true, [true, false]]);
});

it('it goes where the next one does not come in time, or changes follow one another, or nobody looks any more', () => {
  const { result, waits, unmount } = shown();
  act(() => result.current.stays(NONE, 3000));
  act(() => void vi.advanceTimersByTime(2999));
  expect(result.current.drawn.whole).toBe(true);
  act(() => void vi.advanceTimersByTime(1));
  expect([result.current.drawn.whole, waits.at(-1)]).toEqual([false, false]);

  act(() => result.current.came('whole', false));
  act(() => result.current.stays(NONE, 3000));
  act(() => result.current.stays(NONE));
  expect([result.current.drawn.whole, waits.at(-1)]).toEqual([false, false]);

  act(() => result.current.stays(NONE, 3000));
  unmount();
  expect(waits.at(-1)).toBe(false);
});
