// Two sets of changes side by side.
import { type Property, type SceneIndex, type Value, propertyOf, unitOf } from './properties.ts';
import { type Change, keyOf, sameValue, valueText } from './resolve.ts';
import { parseTarget, targetLabel } from './targets.ts';

export interface Compared {
  readonly target: string;
  readonly property: string;
  readonly subject: string;
  readonly what: string;
  /** Undefined where that side leaves the value as it is. */
  readonly a: Value | undefined;
  readonly b: Value | undefined;
  readonly aText: string;
  readonly bText: string;
  readonly same: boolean;
}

/**
 * Every value that either sets, by subject; where one leaves it, its text says what the scene has. A value that equals
 * the scene's own counts as set.
 */
export function compareChanges(scene: SceneIndex | undefined, a: readonly Change[], b: readonly Change[]): Compared[] {
  const left = new Map(a.map((c) => [keyOf(c.target, c.property), c]));
  const right = new Map(b.map((c) => [keyOf(c.target, c.property), c]));
  const out: Compared[] = [];
  for (const [key, { target, property }] of new Map([...left, ...right])) {
    const p = propertyOf(property);
    const x = left.get(key)?.value;
    const y = right.get(key)?.value;
    out.push({
      target,
      property,
      subject: scene?.label(target) ?? targetLabel(target),
      what: p?.label ?? property,
      a: x,
      b: y,
      aText: text(scene, p, target, x),
      bText: text(scene, p, target, y),
      same: x !== undefined && sameValue(x, y),
    });
  }
  return out.sort((m, n) => m.target.localeCompare(n.target, 'en', { numeric: true }));
}
function text(scene: SceneIndex | undefined, p: Property | undefined, target: string, v: Value | undefined): string {
  const unit = p && scene ? unitOf(p, scene, target) : '';
  const base = scene && p?.base(scene, parseTarget(target)?.name ?? '');
  if (v !== undefined) return valueText(p, v, unit, scene);
  return base === undefined ? 'as it is' : `as it is (${valueText(p, base, unit, scene)})`;
}

/** Options of all that change something of a target. */
export const optionsTouching = <O extends { readonly changes: readonly Change[] }>(
  options: readonly O[],
  targets: readonly string[],
): O[] => options.filter((o) => o.changes.some((c) => targets.includes(c.target)));
