// Every property that a look can change, declared once by facet: the validation, the inspector's rows, the resolver,
// comparison texts, the file format's schema and the API's description come from here. docs/adding-a-property.md shows
// how to add one.
import { ENVIRONMENT_PROPERTIES } from './declared/environment.ts';
import { GRADE_PROPERTIES } from './declared/grade.ts';
import { LIGHTING_PROPERTIES } from './declared/lighting.ts';
import { MATERIAL_PROPERTIES } from './declared/materials.ts';
import { PLACEMENT_PROPERTIES_DECLARED } from './declared/placement.ts';
import { VISIBILITY_PROPERTIES } from './declared/visibility.ts';
import type { Property, SceneIndex } from './property.ts';
import { type TargetKind, parseTarget } from './targets.ts';

export * from './property.ts';
export { DRAWN_LOOKS, type DrawnLook, TEXTURE_PROPERTIES } from './declared/materials.ts';
export { AIM, NEUTRAL_KELVIN, UNAIMED } from './declared/lighting.ts';
export { COPY_LAYOUTS, EXPLODE_PARTS, EXPLODE_WAYS } from './declared/placement.ts';

export const PROPERTIES: readonly Property[] = [
  ...LIGHTING_PROPERTIES,
  ...ENVIRONMENT_PROPERTIES,
  ...MATERIAL_PROPERTIES,
  ...VISIBILITY_PROPERTIES,
  ...PLACEMENT_PROPERTIES_DECLARED,
  ...GRADE_PROPERTIES,
];

const BY_ID: ReadonlyMap<string, Property> = new Map(PROPERTIES.map((p) => [p.id, p]));
export const propertyOf = (id: string): Property | undefined => BY_ID.get(id);
function isThreeNumbers(value: unknown): value is [number, number, number] {
  return Array.isArray(value) && value.length === 3 && value.every((x) => typeof x === 'number' && Number.isFinite(x));
}
export function unitOf(p: Property, scene: SceneIndex, target: string): string {
  if (p.type !== 'number' && p.type !== 'vector') return '';
  return typeof p.unit === 'string' ? p.unit : p.unit(scene, parseTarget(target)?.name ?? '');
}

/** Properties that a target has in this scene, in order of declaration. */
export function propertiesFor(scene: SceneIndex, target: string): Property[] {
  const t = parseTarget(target);
  if (!t) return [];
  const kinds: readonly TargetKind[] = [t.kind];
  return PROPERTIES.filter((p) => kinds.includes(p.on) && p.base(scene, t.name) !== undefined);
}

const MOST_CHOICE = 500;
/** Paths, and shapes of light that are in the value itself. */
const MOST_PATH = 2000;
/** Characters of a value at most. */
export const longestChoice = (p: Extract<Property, { readonly type: 'choice' }>): number =>
  p.picks || p.brings === 'ies' ? MOST_PATH : MOST_CHOICE;
/** Says what is wrong with a value, or undefined where nothing is. */
export function faultOfValue(p: Property, value: unknown): string | undefined {
  switch (p.type) {
    case 'boolean':
      return typeof value === 'boolean' ? undefined : `${p.label} is yes or no.`;
    case 'number':
      return typeof value === 'number' && Number.isFinite(value) && value >= p.min && value <= p.max
        ? undefined
        : `${p.label} goes from ${p.min} to ${p.max}${typeof p.unit === 'string' && p.unit ? ` ${p.unit}` : ''}.`;
    case 'vector':
      if (p.whole && Array.isArray(value) && value.some((x) => !Number.isInteger(x)))
        return `${p.label} is three whole numbers.`;
      if (!isThreeNumbers(value)) return `${p.label} is three numbers.`;
      if (value.every((x) => x >= p.min && x <= p.max)) return undefined;
      return `${p.label} goes from ${p.min} to ${p.max}${p.unit ? ` ${p.unit}` : ''} ${p.of === 'axes' ? 'along each axis' : 'for each colour'}.`;
    case 'color':
      return Array.isArray(value) && value.length === 3 && value.every((x) => typeof x === 'number' && x >= 0 && x <= 1)
        ? undefined
        : `${p.label} is three numbers from 0 to 1.`;
    case 'choice':
      return typeof value === 'string' && value.length > 0 && value.length <= longestChoice(p)
        ? undefined
        : `${p.label} is a name from the list.`;
  }
}
