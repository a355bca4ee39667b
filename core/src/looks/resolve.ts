// base → options → patches. Pure: the same layers always give the same state, with the layer that each value comes
// from. Laws (held by property tests): facets own disjoint properties, so options of different facets commute; the base
// is neutral; within a facet the later option wins; every value's provenance is the last layer that sets it.
import { parseSky } from '../environment/index.ts';
import { parseLut } from '../image/index.ts';
import type { Facet } from './facets.ts';
import { type Property, SceneIndex, type Value, propertyOf } from './properties.ts';
import { parseImage } from './images.ts';
import { parseProfile } from './photometry.ts';
import { originalPath, parseTarget, targetLabel } from './targets.ts';

export interface Change {
  readonly target: string;
  readonly property: string;
  readonly value: Value;
}

export interface Layer {
  readonly id: string;
  readonly name: string;
  readonly kind: 'base' | 'option' | 'patch' | 'pending';
  /** Options belong to one facet. */
  readonly facet?: Facet | undefined;
  readonly changes: readonly Change[];
}

export interface ResolvedValue {
  readonly target: string;
  readonly property: Property;
  readonly value: Value;
  /** Layers that set it, in order; the last one wins. */
  readonly layers: readonly Layer[];
}

export class ResolvedState {
  constructor(
    readonly scene: SceneIndex,
    readonly values: ReadonlyMap<string, ResolvedValue>,
    readonly unmatched: readonly Change[],
  ) {}

  /** The value in force; undefined where the target has no such property. */
  get(target: string, property: string): Value | undefined {
    const set = this.values.get(keyOf(target, property));
    if (set) return set.value;
    const t = parseTarget(target);
    const p = propertyOf(property);
    const original = t && originalPath(t.name);
    if (!t || !p) return undefined;
    // a copy is as what it is a copy of, but where it stands
    return original !== t.name &&
      p.facet !== 'placement' &&
      !this.scene.nodes.has(t.name) &&
      !this.scene.materials.has(t.name)
      ? this.get(`${t.kind}:${original!}`, property)
      : p.base(this.scene, t.name);
  }
  /** Where the value comes from; undefined for the scene itself. */
  provenance(target: string, property: string): ResolvedValue | undefined {
    return this.values.get(keyOf(target, property));
  }
}

/** What a value would be without the layer that gives it now. */
export function valueWithout(state: ResolvedState, v: ResolvedValue): Value | undefined {
  const before = v.layers.at(-2);
  const change = before?.changes.findLast((c) => c.target === v.target && c.property === v.property.id);
  return change ? change.value : v.property.base(state.scene, parseTarget(v.target)!.name);
}

/**
 * For going over all objects of a scene: what the look sets of one property of an object, by its path; undefined where
 * it sets nothing, so that the scene's own holds.
 * Copies are as their originals, as in get(). Asking get() for four properties of 13,440 objects took 33 to 50 ms; this
 * takes 1 to 6.
 */
export function setOnObjects(state: ResolvedState, property: string): (path: string) => Value | undefined {
  const own = new Map<string, Value>();
  for (const v of state.values.values())
    if (v.property.id === property) own.set(v.target.slice('object:'.length), v.value);
  if (!own.size) return () => undefined;
  return (path) =>
    own.get(path) ?? (path.includes('#') && !state.scene.nodes.has(path) ? own.get(originalPath(path)) : undefined);
}

export const keyOf = (target: string, property: string): string => `${target}\u0000${property}`;

function withLayer(layers: readonly Layer[], layer: Layer): readonly Layer[] {
  return layers.at(-1) === layer ? layers : [...layers, layer];
}

/**
 * Layers in order of force: base edits, options, camera patch, cell patch, pending edits. Changes of an option outside
 * its facet, of unknown properties and of targets that this scene does not have are kept aside in `unmatched`; nothing
 * is lost, and they count again when the scene has them again.
 */
export function resolve(scene: SceneIndex, layers: readonly Layer[]): ResolvedState {
  const values = new Map<string, ResolvedValue>();
  const unmatched: Change[] = [];
  for (const layer of layers)
    for (const change of layer.changes) {
      const property = propertyOf(change.property);
      const target = parseTarget(change.target);
      if (
        !property ||
        !target ||
        target.kind !== property.on ||
        (layer.facet && layer.facet !== property.facet) ||
        property.base(scene, target.name) === undefined
      ) {
        unmatched.push(change);
        continue;
      }
      const key = keyOf(change.target, change.property);
      const before = values.get(key);
      values.set(key, {
        target: change.target,
        property,
        value: change.value,
        layers: before ? withLayer(before.layers, layer) : [layer],
      });
    }
  return new ResolvedState(scene, values, unmatched);
}

/** Values that two or more options of one variant set. */
export const overlaps = (state: ResolvedState): ResolvedValue[] =>
  [...state.values.values()].filter((v) => v.layers.filter((l) => l.kind === 'option').length > 1);

export const sameValue = (a: Value | undefined, b: Value | undefined): boolean =>
  a === b ||
  (Array.isArray(a) &&
    Array.isArray(b) &&
    a.length === b.length &&
    a.every((x, i) => x === (b as readonly number[])[i]));

/** Merges changes into a list: later ones replace earlier ones of the same value. */
export function mergeChanges(list: readonly Change[], more: readonly Change[]): Change[] {
  const map = new Map(list.map((c) => [keyOf(c.target, c.property), c]));
  for (const c of more) map.set(keyOf(c.target, c.property), c);
  return [...map.values()];
}
export const withoutChanges = (
  list: readonly Change[],
  gone: readonly { readonly target: string; readonly property: string }[],
): Change[] => {
  const keys = new Set(gone.map((c) => keyOf(c.target, c.property)));
  return list.filter((c) => !keys.has(keyOf(c.target, c.property)));
};

/** A value as a person reads it. @param scene says what choices are called */
export function valueText(
  property: Property | undefined,
  value: Value | undefined,
  unit = '',
  scene?: SceneIndex,
): string {
  if (value === undefined) return '—';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (typeof value === 'number')
    return `${Number(value.toPrecision(4))}${unit === '' || unit === '°' ? unit : ` ${unit}`}`;
  if (typeof value === 'string')
    return (
      (parseSky(value) ?? parseLut(value) ?? parseImage(value) ?? parseProfile(value))?.name ??
      (scene && property?.type === 'choice'
        ? property.choices(scene).find((c) => c.value === value)?.label
        : undefined) ??
      value
    );
  if (property?.type === 'vector')
    return `${value.map((x) => Number(x.toPrecision(4))).join(', ')}${unit ? ` ${unit}` : ''}`;
  return `#${value
    .map((c) =>
      Math.round(encodeSrgb(c) * 255)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;
}
const encodeSrgb = (x: number): number => (x <= 0.0031308 ? x * 12.92 : 1.055 * Math.min(1, x) ** (1 / 2.4) - 0.055);

export const changeText = (c: Change, scene?: SceneIndex): string =>
  `${scene?.label(c.target) ?? targetLabel(c.target)}, ${(propertyOf(c.property)?.label ?? c.property).toLowerCase()}`;
