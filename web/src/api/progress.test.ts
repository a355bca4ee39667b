import { describe, expect, it } from 'vitest';
import { speedOf } from './progress.ts';

describe('the speed of a trace', () => {
  it('is known from the second report on, and follows those that come', () => {
    const first = { fraction: 0.1, ...speedOf(undefined, 0.1, 1000) };
    expect(first.perS).toBeNull();
    const second = { fraction: 0.2, ...speedOf(first, 0.2, 2000) };
    expect(second.perS).toBeCloseTo(0.1, 6);
    let now: Parameters<typeof speedOf>[0] & object = second;
    for (let i = 1; i <= 60; i++) {
      const fraction = 0.2 + i * 0.01;
      now = { fraction, ...speedOf(now, fraction, 2000 + i * 1000) };
    }
    expect(now.perS).toBeCloseTo(0.01, 3);
  });
  it('is forgotten when a trace begins anew', () => {
    expect(speedOf({ fraction: 0.5, perS: 0.1, atMs: 1000 }, 0.1, 2000).perS).toBeNull();
  });
});
