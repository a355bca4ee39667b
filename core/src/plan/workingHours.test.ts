import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { ALWAYS, POWERS, type WorkingHours, secondsUntilDone, threadsAt } from './index.ts';

/** Full from 19:00 to 08:00, one thread on weekdays by day, nothing on Sundays by day. */
const nights: WorkingHours = {
  ...ALWAYS,
  week: Array.from({ length: 7 }, (_, day) =>
    Array.from({ length: 24 }, (_, hour) => {
      if (hour >= 19 || hour < 8) return 'full';
      return day === 6 ? 'none' : 'some';
    }),
  ),
};

describe('working hours', () => {
  it('say how many threads may work', () => {
    const of = (day: number, hour: number) => threadsAt(nights, 8, { day, hour });
    expect([of(0, 7.99), of(0, 8), of(0, 18.99), of(0, 19), of(6, 12)]).toEqual([8, 1, 1, 8, 0]);
    expect(threadsAt({ ...nights, someThreads: 4 }, 2, { day: 0, hour: 12 })).toBe(2);
  });
  it('say when work is done: over the day at the pace of the day', () => {
    // Monday 18:00, an hour of work: by 19:00 an eighth is done
    expect(secondsUntilDone(nights, 8, { day: 0, hour: 18 }, 3600)).toBeCloseTo(3600 + 3600 * (7 / 8), 6);
    // Sunday 09:30: nothing until 19:00
    expect(secondsUntilDone(nights, 8, { day: 6, hour: 9.5 }, 600)).toBeCloseTo(9.5 * 3600 + 600, 6);
    expect(secondsUntilDone(ALWAYS, 8, { day: 3, hour: 23.5 }, 86_400)).toBeCloseTo(86_400, 6);
    // not now for an hour
    expect(secondsUntilDone(ALWAYS, 8, { day: 3, hour: 12.25 }, 60, 3600)).toBeCloseTo(3660, 6);
  });
  it('that never allow anything never end', () => {
    const never = { ...ALWAYS, week: ALWAYS.week.map((day) => day.map(() => 'none' as const)) };
    expect(secondsUntilDone(never, 4, { day: 0, hour: 0 }, 1)).toBeNull();
  });
  it('more work never ends sooner, and never before it could at full power', () => {
    const week = fc.array(fc.array(fc.constantFrom(...POWERS), { minLength: 24, maxLength: 24 }), {
      minLength: 7,
      maxLength: 7,
    });
    const hour = fc.double({ min: 0, max: 23.999, noNaN: true });
    fc.assert(
      fc.property(week, fc.integer({ min: 0, max: 6 }), hour, fc.nat(500_000), fc.nat(500_000), (w, day, h, a, b) => {
        const done = (workS: number) =>
          secondsUntilDone({ ...ALWAYS, week: w }, 4, { day, hour: h }, workS) ?? Infinity;
        const [less, more] = [Math.min(a, b), Math.max(a, b)];
        expect(done(more)).toBeGreaterThanOrEqual(done(less) - 1e-6);
        expect(done(less)).toBeGreaterThanOrEqual(less - 1e-6);
      }),
    );
  });
});
