// When a machine may render, and with how much of itself: a week of hours.

export const POWERS = ['full', 'some', 'none'] as const;
export type HourPower = (typeof POWERS)[number];
export interface WorkingHours {
  /** Seven days from Monday, 24 hours each, by the clock of the server's machine. */
  readonly week: readonly (readonly HourPower[])[];
  /** How many threads “some” is. */
  readonly someThreads: number;
  /** One thread fewer while somebody edits on the same machine. */
  readonly stepsBack: boolean;
  /** Nothing until then, ISO 8601; null: as the week says. */
  readonly notUntil: string | null;
}
const HOURS = 24;
const DAYS = 7;
const HOUR_S = 3600;

export const ALWAYS: WorkingHours = {
  week: Array.from({ length: DAYS }, () => Array.from({ length: HOURS }, () => 'full' as const)),
  someThreads: 1,
  stepsBack: true,
  notUntil: null,
};

/** A moment by a machine's clock: its day of the week from Monday, and the hour with its fraction. */
export interface ClockTime {
  readonly day: number;
  readonly hour: number;
}

/** How many of a machine's threads may work. */
export function threadsAt(h: WorkingHours, threads: number, at: ClockTime): number {
  const power = h.week[at.day]![Math.floor(at.hour)]!;
  if (power === 'none') return 0;
  return power === 'some' ? Math.min(h.someThreads, threads) : threads;
}

/**
 * Seconds by the clock until work of so many seconds at full power is done; null where the week never lets it be.
 * @param at now, in seconds from now on
 */
export function secondsUntilDone(
  h: WorkingHours,
  threads: number,
  at: ClockTime,
  workS: number,
  pauseS = 0,
): number | null {
  let { day, hour } = at;
  let left = workS;
  let passed = 0;
  let pause = pauseS;
  for (let hours = 0; hours <= DAYS * HOURS * 60; hours++) {
    const spanS = (Math.floor(hour) + 1 - hour) * HOUR_S;
    const idleS = Math.min(pause, spanS);
    pause -= idleS;
    const share = threadsAt(h, threads, { day, hour }) / threads;
    const doneS = (spanS - idleS) * share;
    if (share > 0 && doneS >= left) return passed + idleS + left / share;
    left -= doneS;
    passed += spanS;
    hour = Math.floor(hour) + 1;
    if (hour === HOURS) {
      hour = 0;
      day = (day + 1) % DAYS;
    }
  }
  return null;
}
