// Marks drawn on pictures.
import type { Mark } from '@variscen/contract';

/** More points of a line say nothing more of it. */
const MOST_POINTS = 400;

/** @param points in shares of the picture, one at least */
export function newMark(points: readonly (readonly [number, number])[]): Mark {
  const every = Math.ceil(points.length / MOST_POINTS);
  const kept = points.filter((_, i) => i % every === 0 || i === points.length - 1);
  return { id: crypto.randomUUID(), points: kept.map(([x, y]) => [rounded(x), rounded(y)]), text: '' };
}
const rounded = (share: number): number => Math.round(share * 1e5) / 1e5;
