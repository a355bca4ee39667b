// How the light groups of a picture are mixed. Pure.
import { type Change, type Facet, mergeChanges, propertyOf } from '@variscen/core/looks';
import type { Project, Variant } from '@variscen/contract';
import type { Rgb } from '@variscen/core/scene';

export interface GroupSetting {
  readonly stops: number;
  /** Linear; its strongest channel counts as 1. */
  readonly color: Rgb;
  readonly isMuted: boolean;
  readonly isAlone: boolean;
}
export const AS_RENDERED: GroupSetting = { stops: 0, color: [1, 1, 1], isMuted: false, isAlone: false };
export const STOPS = { min: -6, max: 6, step: 0.1 };

export const isAsRendered = (all: readonly GroupSetting[]): boolean =>
  all.every((s) => s.stops === 0 && !s.isMuted && !s.isAlone && s.color.every((c) => c === 1));

/** How much of each group there is, r, g, b. Where some are looked at alone, the others are not there. */
export function sharesOf(all: readonly GroupSetting[]): Rgb[] {
  const someAlone = all.some((s) => s.isAlone);
  return all.map(({ stops, color, isMuted, isAlone }): Rgb => {
    if (isMuted || (someAlone && !isAlone)) return [0, 0, 0];
    const most = Math.max(...color);
    return color.map((c) => (most > 0 ? (c / most) * 2 ** stops : 0)) as unknown as Rgb;
  });
}

export interface MixedOption {
  readonly facet: Facet;
  readonly name: string;
  readonly changes: readonly Change[];
}
/**
 * A mix as options: of each facet that it changes one, which has what the variant's own option of that facet has, and
 * the mix over it.
 */
export function optionsOfMix(
  project: Pick<Project, 'options'>,
  variant: Pick<Variant, 'optionIds'>,
  mix: readonly Change[],
  name: string,
): MixedOption[] {
  const byFacet = new Map<Facet, Change[]>();
  for (const change of mix) {
    const { facet } = propertyOf(change.property)!;
    byFacet.set(facet, [...(byFacet.get(facet) ?? []), change]);
  }
  return [...byFacet].map(([facet, changes]) => {
    const own = project.options.find((o) => o.facet === facet && variant.optionIds.includes(o.id));
    return { facet, name, changes: mergeChanges((own?.changes ?? []) as Change[], changes) };
  });
}
