// How a number changes by hand: by steps, or by shares of itself where its scale is logarithmic. Pure.
export interface NumberRange {
  readonly min: number;
  readonly max: number;
  /** What one step of a hand, an arrow key or a pixel, adds. */
  readonly step: number;
  /** log: a step is a hundredth of the value, as of strengths that go from candles to suns. */
  readonly scale?: 'log' | undefined;
  /** More than these are not kept; 0: whole numbers only. */
  readonly decimals?: number;
}

const LOG_STEP = Math.log(1.01);
const LOG_DIGITS = 4;

/** The nearest value of the range. */
export function clamped(v: number, { min, max, decimals }: NumberRange): number {
  const kept = decimals === undefined ? v : Number(v.toFixed(decimals));
  return Math.min(max, Math.max(min, kept));
}

/** The value after so many steps, which may be parts of one, from where a hand took hold of it. */
export function stepped(from: number, steps: number, range: NumberRange): number {
  if (steps === 0) return from; // a hand that comes back has changed nothing
  // nothing grows out of 0 by shares of itself: it begins with a step
  if (range.scale === 'log' && from > 0) {
    const next = from * Math.exp(LOG_STEP * steps);
    return clamped(Number(next.toPrecision(LOG_DIGITS)), range);
  }
  const grain = range.step * Math.min(1, Math.abs(steps));
  const next = from + range.step * steps;
  return clamped(roundTo(next, grain), range);
}

/** To as many decimals as the grain has, so that ten steps of 0.1 are 1. */
function roundTo(v: number, grain: number): number {
  const decimals = Math.min(12, Math.max(0, Math.ceil(-Math.log10(grain) + 1)));
  return Number(v.toFixed(decimals));
}

/** A typed number: with a comma or a point, with its unit or without. Undefined where it is none. */
export function parsedNumber(text: string): number | undefined {
  const match = /^\s*([+-]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:e[+-]?\d+)?)\s*[^\d.,]*$/i.exec(text.replace('−', '-'));
  if (!match) return undefined;
  const v = Number(match[1]!.replace(',', '.'));
  return Number.isFinite(v) ? v : undefined;
}
