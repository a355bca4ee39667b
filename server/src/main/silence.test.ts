import { describe, expect, it } from 'vitest';
import { Silence } from './silence.ts';

describe('a node', () => {
  const at = (s: number) => new Date(s * 1000).toISOString();
  it('hangs when it has been silent at three looks in a row', () => {
    let now = 0;
    const silence = new Silence(60_000, () => now * 1000);
    const looked = [0, 50, 61, 66, 71, 76].map((s) => {
      now = s;
      return silence.isHung(at(0));
    });
    expect(looked).toEqual([false, false, false, false, true, true]);
  });
  it('does not hang after the machine slept, where it is heard of again', () => {
    let now = 7200;
    const silence = new Silence(60_000, () => now * 1000);
    expect(silence.isHung(at(0))).toBe(false);
    now = 7205;
    expect([silence.isHung(at(0)), silence.isHung(at(7204)), silence.isHung(at(7204))]).toEqual([false, false, false]);
  });
  it('that the server does not know is not said to hang', () => {
    const silence = new Silence(1, () => 1e9);
    expect([1, 2, 3, 4].map(() => silence.isHung(undefined))).toEqual([false, false, false, false]);
  });
});
