// A number under a hand: dragged along its label, turned by the wheel, stepped by arrow keys. What belongs together is
// one edit; Escape gives the old value back.
import { useEffect, useRef } from 'react';
import { type Gesture, useGesture } from './gesture.ts';
import { type NumberRange, stepped } from './numberSteps.ts';

/** Steps of the wheel or of keys that follow within so long are one edit. */
const REST_MS = 500;

export interface HandedNumber {
  /** Steps from where the number stood when the hand took hold. */
  dragTo(steps: number): void;
  /** So many steps on from where it is, or from what was typed over it. */
  nudge(steps: number, typed?: number): void;
  /** The hand lets go. */
  end(): void;
  /** The old value is given back. Answers whether there was anything to take back. */
  cancel(): boolean;
}

export function useHandedNumber(value: number | null, range: NumberRange, onChange: (v: number) => void): HandedNumber {
  const begin = useGesture();
  const held = useRef<{ readonly gesture: Gesture; readonly from: number; now: number } | null>(null);
  const resting = useRef<ReturnType<typeof setTimeout>>(undefined);
  const latest = useRef({ range, onChange });
  useEffect(() => {
    latest.current = { range, onChange };
  });
  const end = () => {
    clearTimeout(resting.current);
    held.current?.gesture.end();
    held.current = null;
  };
  useEffect(() => end, []);
  const take = () => {
    if (value !== null) held.current ??= { gesture: begin(), from: value, now: value };
    return held.current;
  };
  const put = (hand: { now: number }, next: number) => {
    if (next === hand.now) return;
    hand.now = next;
    latest.current.onChange(next);
  };
  return {
    dragTo: (steps) => {
      const hand = take();
      if (hand) put(hand, stepped(hand.from, steps, latest.current.range));
    },
    nudge: (steps, typed) => {
      const hand = take();
      if (!hand) return;
      put(hand, stepped(typed ?? hand.now, steps, latest.current.range));
      clearTimeout(resting.current);
      resting.current = setTimeout(end, REST_MS);
    },
    end,
    cancel: () => {
      clearTimeout(resting.current);
      const was = held.current;
      held.current = null;
      was?.gesture.cancel();
      return was !== null && was.now !== was.from;
    },
  };
}
