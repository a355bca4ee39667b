// Differences between two options, the same change of many things in one line that opens. Pure.
import { type Compared, parseTarget } from '@variscen/core/looks';
import { plural } from '../ui/format.ts';

export interface DifferenceGroup {
  readonly key: string;
  /** At least one; more: the same of each. */
  readonly all: readonly Compared[];
}
/** A line of the list: a group, or one of what is in a group that is open. */
export interface DifferenceLine {
  readonly group: DifferenceGroup;
  /** Of an open group. */
  readonly one?: Compared;
}

const KIND_WORDS: Readonly<Record<string, string>> = { object: 'object', light: 'light', material: 'material' };

/** In the order in which the first of each comes. */
export function grouped(rows: readonly Compared[]): DifferenceGroup[] {
  const groups = new Map<string, Compared[]>();
  for (const r of rows) {
    const key = JSON.stringify([kindOf(r), r.property, r.a, r.b, r.aText, r.bText]);
    const known = groups.get(key);
    if (known) known.push(r);
    else groups.set(key, [r]);
  }
  return [...groups].map(([key, all]) => ({ key, all }));
}

export function linesOf(groups: readonly DifferenceGroup[], open: ReadonlySet<string>): DifferenceLine[] {
  return groups.flatMap((group): DifferenceLine[] => {
    const inside = group.all.length > 1 && open.has(group.key) ? group.all.map((one) => ({ group, one })) : [];
    return [{ group }, ...inside];
  });
}

/** "Lantern 3, strength", or "14 lights, strength". */
export function titleOf({ all }: DifferenceGroup): string {
  const [first] = all;
  const what = first!.what.toLowerCase();
  if (all.length === 1) return `${first!.subject}, ${what}`;
  return `${plural(all.length, KIND_WORDS[kindOf(first!)] ?? 'object')}, ${what}`;
}

const kindOf = (r: Compared): string => parseTarget(r.target)?.kind ?? '';
