import type { Compared } from '@variscen/core/looks';
import { describe, expect, it } from 'vitest';
import { grouped, linesOf, titleOf } from './compareGroups.ts';

const row = (target: string, a: number | undefined, b: number | undefined, property = 'light.intensity'): Compared => ({
  target,
  property,
  subject: target.split(/[/:]/).at(-1)!,
  what: 'Strength',
  a,
  b,
  aText: String(a),
  bText: String(b),
  same: a === b,
});
const lanterns = Array.from({ length: 14 }, (_, i) => row(`light:Lanterns/Lantern ${i + 1}`, 3.6, 60));
const lamp = row('light:Counter lamp', 40, 60);
const crate = row('object:Crate', 3.6, 60);

describe('differences of two options', () => {
  it('that are the same of many things are one line, which opens', () => {
    const groups = grouped([...lanterns.slice(0, 5), lamp, ...lanterns.slice(5)]);
    expect(groups.map(titleOf)).toEqual(['14 lights, strength', 'Counter lamp, strength']);
    expect(linesOf(groups, new Set())).toHaveLength(2);
    const open = linesOf(groups, new Set([groups[0]!.key]));
    expect(open.map((l) => l.one?.subject)).toEqual([undefined, ...lanterns.map((l) => l.subject), undefined]);
  });
  it('are told apart by kind, property and both values, one that is not set among them', () => {
    expect(grouped([lanterns[0]!, crate])).toHaveLength(2);
    expect(grouped([lanterns[0]!, row('light:Lanterns/Lantern 2', 3.6, undefined)])).toHaveLength(2);
    expect(grouped([lanterns[0]!, row('light:Lanterns/Lantern 2', 3.6, 60, 'light.temperature')])).toHaveLength(2);
  });
  it('lose none', () => {
    const all = [...lanterns, lamp, crate];
    const groups = grouped(all);
    expect(groups.flatMap((g) => g.all).sort()).toEqual([...all].sort());
    expect(linesOf(grouped([]), new Set())).toEqual([]);
  });
});
