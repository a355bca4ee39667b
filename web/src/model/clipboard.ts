// Values that were copied on the stage, to be set on other things or in another destination.
import {
  type Change,
  type ResolvedState,
  type SceneIndex,
  type Value,
  parseTarget,
  propertiesFor,
  propertyOf,
} from '@variscen/core/looks';
import { create } from 'zustand';

export interface Copied {
  readonly from: string;
  readonly changes: readonly Change[];
}
export const useClipboard = create<{ copied: Copied | null; copy: (c: Copied) => void }>((set) => ({
  copied: null,
  copy: (copied) => set({ copied }),
}));

/** All values in force of some targets, as changes. */
export const valuesOf = (index: SceneIndex, state: ResolvedState, targets: readonly string[]): Change[] =>
  targets.flatMap((target) =>
    propertiesFor(index, target).map((p) => ({ target, property: p.id, value: state.get(target, p.id)! })),
  );

/**
 * What pasting would set. Values of one thing go onto each of the targets that has the property and another value;
 * values of several things go to where they came from.
 * Targets of another kind get nothing.
 */
export function pasted(
  { changes }: Copied,
  index: SceneIndex,
  state: ResolvedState,
  targets: readonly string[],
): Change[] {
  const sources = new Map<string, string>();
  for (const c of changes) {
    const kind = parseTarget(c.target)?.kind ?? '';
    const known = sources.get(kind);
    sources.set(kind, known === undefined || known === c.target ? c.target : MANY);
  }
  const out = changes.flatMap((c) => {
    const property = propertyOf(c.property);
    const onto =
      property && sources.get(property.on) !== MANY && targets.some((t) => parseTarget(t)?.kind === property.on)
        ? targets
        : [c.target];
    return property
      ? onto
          .filter(
            (t) => parseTarget(t)?.kind === property.on && property.base(index, parseTarget(t)!.name) !== undefined,
          )
          .map((target) => ({ target, property: c.property, value: c.value }))
      : [];
  });
  return out.filter((c) => !same(state.get(c.target, c.property), c.value));
}
const MANY = '\u0000many';
const same = (a: Value | undefined, b: Value): boolean => JSON.stringify(a) === JSON.stringify(b);
