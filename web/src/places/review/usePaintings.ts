// What each pane of the review paints: pictures by their grade or a range, or a difference of two.
import { type DifferenceAsked, type DifferenceFound } from '@variscen/core/review';
import { useEffect, useMemo, useReducer, useRef } from 'react';
import type { Painted } from '../../pictures/painter.ts';
import { pictures } from '../../pictures/pictureService.ts';
import type { ShownLayer } from '../../pictures/useLayers.ts';

/** A layer as it is shown; undefined while it is opened, and where there is none. */
export function usePainted(shown: ShownLayer | null | undefined): Painted | undefined {
  return useMemo(() => {
    if (!shown) return undefined;
    const { of, how } = shown;
    return {
      key: `${of.renderId} ${of.layer} ${of.widthPx} ${JSON.stringify(how)}`,
      of,
      make: async (at, signal) => (await pictures.ask({ kind: 'tile', of, at, how }, signal)).bitmap,
    };
  }, [shown]);
}

/** Of all tiles in sight together. */
export interface DifferenceSums {
  readonly pixels: number;
  readonly mean: number;
  readonly most: number;
  readonly differing: number;
  readonly noticed: number;
}
type TileFound = Omit<DifferenceFound, 'pixels'> & { readonly pixels: number };

export function usePaintedDifference(
  a: ShownLayer | null | undefined,
  b: ShownLayer | null | undefined,
  asked: DifferenceAsked,
): { readonly painted: Painted | undefined; readonly sums: DifferenceSums | undefined } {
  const found = useRef(new Map<string, TileFound>());
  const [count, foundMore] = useReducer((n: number) => n + 1, 0);
  const { kind, scale, isSigned } = asked;
  const painted = useMemo((): Painted | undefined => {
    if (!a || !b || a.how.kind !== 'graded' || b.how.kind !== 'graded') return undefined;
    const { of } = a;
    const shown = [a.how, b.how] as const;
    const difference = { kind, scale, isSigned };
    found.current = new Map();
    return {
      key: `difference ${of.renderId} ${b.of.renderId} ${of.layer} ${JSON.stringify([difference, shown])}`,
      of,
      make: async (at, signal) => {
        const made = await pictures.ask({ kind: 'difference', of, at, to: b.of, asked: difference, shown }, signal);
        found.current.set(`${at.level}.${at.x}.${at.y}`, { ...made.found, pixels: made.pixels });
        foundMore();
        return made.bitmap;
      },
    };
  }, [a, b, kind, scale, isSigned]);
  useEffect(() => foundMore(), [painted]);
  // the map is written to as tiles come, which count tells
  const sums = useMemo(() => sumsOf(found.current), [count, painted]);
  return { painted, sums };
}

/** Of the finest level that there is something of. */
function sumsOf(found: ReadonlyMap<string, TileFound>): DifferenceSums | undefined {
  const level = Math.min(...[...found.keys()].map((key) => Number(key.split('.')[0])));
  const of = [...found].filter(([key]) => key.startsWith(`${level}.`)).map(([, f]) => f);
  if (!of.length) return undefined;
  const sum = (pick: (f: TileFound) => number) => of.reduce((n, f) => n + pick(f), 0);
  const pixels = sum((f) => f.pixels);
  return {
    pixels,
    mean: sum((f) => f.sum) / pixels,
    most: Math.max(...of.map((f) => f.most)),
    differing: sum((f) => f.differing),
    noticed: sum((f) => f.noticed),
  };
}
