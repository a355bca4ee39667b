// Every property that a look can change, declared once: the validation, the inspector's rows, the resolver, comparison texts and the API's
// description come from here. docs/adding-a-property.md shows how to add one.
import { ENVIRONMENT_KINDS, type EnvironmentKind } from '../environment/index.ts';
import { LIGHT_UNITS, type Rgb, type SceneDocument } from '../scene/index.ts';
import type { Facet } from './facets.ts';
import { type TargetKind, parseTarget } from './targets.ts';

export type Value = boolean | number | string | Rgb;

interface Common<T extends Value> {
  readonly id: string;
  readonly facet: Facet;
  readonly on: TargetKind;
  readonly label: string;
  /** What the scene has where nothing changes it; undefined where the target has no such property. */
  readonly base: (scene: SceneIndex, name: string) => T | undefined;
  /** Light scales with it, so that pictures can be scaled instead of traced. */
  readonly linearInLight?: boolean;
}
export type Property =
  | (Common<boolean> & { readonly type: 'boolean' })
  | (Common<number> & { readonly type: 'number'; readonly min: number; readonly max: number; readonly step: number; readonly unit: string | ((scene: SceneIndex, name: string) => string); readonly scale?: 'log' })
  | (Common<Rgb> & { readonly type: 'color' })
  /** One number along each axis of the world. */
  | (Common<Rgb> & { readonly type: 'vector'; readonly min: number; readonly max: number; readonly step: number; readonly unit: string })
  | (Common<string> & { readonly type: 'choice'; readonly choices: (scene: SceneIndex) => readonly { readonly value: string; readonly label: string }[]; /** Environment maps that were brought in are among the choices. */ readonly maps?: true });

/** A scene with its names looked up once. */
export class SceneIndex {
  readonly nodes: ReadonlyMap<string, number>;
  readonly materials: ReadonlyMap<string, number>;
  constructor(readonly document: SceneDocument) {
    this.nodes = new Map(document.nodes.map((n, i) => [n.path, i]));
    this.materials = new Map(document.materials.map((m, i) => [m.name, i]));
  }
  node(path: string) { const i = this.nodes.get(path); return i === undefined ? undefined : this.document.nodes[i]; }
  light(path: string) { const n = this.node(path); return n?.light === undefined ? undefined : this.document.lights[n.light]; }
  material(name: string) { const i = this.materials.get(name); return i === undefined ? undefined : this.document.materials[i]; }
}

/** Light of one group is kept apart in the layers of a render, so that its strength can be changed afterwards. */
export const LIGHT_GROUPS = ['1', '2', '3', '4', '5', '6', '7', '8'] as const;
const lightGroups = () => LIGHT_GROUPS.map((g) => ({ value: g as string, label: `Group ${g}` }));
const skies = () => ENVIRONMENT_KINDS.map((e) => ({ value: e.id as string, label: e.label }));
/** What the camera, reflections or glass see instead of the sky that lights. */
const otherSkies = () => [{ value: 'same', label: 'As the sky' }, ...skies()];

const object = <T extends Value>(value: T) => (s: SceneIndex, path: string): T | undefined => (s.node(path) ? value : undefined);

/** How an object, and all in it that says nothing else, is drawn. */
export const DRAWN_LOOKS = [{ id: 'group', label: 'As its group' }, { id: 'own', label: 'Its materials' }, { id: 'clay', label: 'Clay' }, { id: 'ink', label: 'Flat steps and ink' }] as const;
export type DrawnLook = Exclude<(typeof DRAWN_LOOKS)[number]['id'], 'group'>;

export const PROPERTIES: readonly Property[] = [
  { id: 'light.on', facet: 'lighting', on: 'light', label: 'On', type: 'boolean', base: (s, p) => (s.light(p) ? true : undefined), linearInLight: true },
  { id: 'light.intensity', facet: 'lighting', on: 'light', label: 'Strength', type: 'number', min: 0, max: 1e6, step: 0.1, scale: 'log', unit: (s, p) => { const l = s.light(p); return l ? LIGHT_UNITS[l.type] : ''; }, base: (s, p) => s.light(p)?.intensity, linearInLight: true },
  { id: 'light.color', facet: 'lighting', on: 'light', label: 'Colour', type: 'color', base: (s, p) => s.light(p)?.color, linearInLight: true },
  { id: 'light.radius', facet: 'lighting', on: 'light', label: 'Radius', type: 'number', min: 0, max: 10, step: 0.005, unit: 'm', base: (s, p) => { const l = s.light(p); return l && 'radiusM' in l ? l.radiusM : undefined; } },
  { id: 'light.group', facet: 'lighting', on: 'light', label: 'Light group', type: 'choice', choices: lightGroups, base: (s, p) => (s.light(p) ? '1' : undefined) },

  { id: 'environment.kind', maps: true, facet: 'environment', on: 'environment', label: 'Sky', type: 'choice', choices: skies, base: () => 'even' satisfies EnvironmentKind },
  { id: 'environment.strength', facet: 'environment', on: 'environment', label: 'Strength', type: 'number', min: 0, max: 1000, step: 0.01, scale: 'log', unit: '×', base: () => 1, linearInLight: true },
  { id: 'environment.turn', facet: 'environment', on: 'environment', label: 'Turn', type: 'number', min: -360, max: 360, step: 1, unit: '°', base: () => 0 },
  { id: 'environment.tint', facet: 'environment', on: 'environment', label: 'Tint', type: 'color', base: () => [1, 1, 1], linearInLight: true },
  { id: 'environment.seen', maps: true, facet: 'environment', on: 'environment', label: 'Camera sees', type: 'choice', choices: otherSkies, base: () => 'same' },
  { id: 'environment.reflected', maps: true, facet: 'environment', on: 'environment', label: 'Reflections', type: 'choice', choices: otherSkies, base: () => 'same' },
  { id: 'environment.refracted', maps: true, facet: 'environment', on: 'environment', label: 'Through glass', type: 'choice', choices: otherSkies, base: () => 'same' },
  { id: 'environment.group', facet: 'environment', on: 'environment', label: 'Light group', type: 'choice', choices: lightGroups, base: () => '1' },
  { id: 'environment.fogDensity', facet: 'environment', on: 'environment', label: 'Fog', type: 'number', min: 0, max: 10, step: 0.005, unit: '/m', base: () => 0 },
  { id: 'environment.fogColor', facet: 'environment', on: 'environment', label: 'Fog colour', type: 'color', base: () => [0.9, 0.9, 0.9] },
  { id: 'environment.fogForward', facet: 'environment', on: 'environment', label: 'Fog forwards', type: 'number', min: -0.95, max: 0.95, step: 0.05, unit: '', base: () => 0.4 },
  { id: 'environment.fogTop', facet: 'environment', on: 'environment', label: 'Fog up to', type: 'number', min: -1000, max: 10000, step: 0.5, unit: 'm', base: () => 10 },

  { id: 'object.material', facet: 'materials', on: 'object', label: 'Material', type: 'choice', choices: (s) => s.document.materials.map((m) => ({ value: m.name, label: m.name })), base: (s, p) => { const n = s.node(p); return n?.parts?.length === 1 ? s.document.materials[n.parts[0]!.material]!.name : undefined; } },
  { id: 'object.drawn', facet: 'materials', on: 'object', label: 'Drawn as', type: 'choice', choices: () => DRAWN_LOOKS.map((d) => ({ value: d.id, label: d.label })), base: object<string>('group') },
  { id: 'material.baseColor', facet: 'materials', on: 'material', label: 'Base colour', type: 'color', base: (s, m) => s.material(m)?.baseColor },
  { id: 'material.metallic', facet: 'materials', on: 'material', label: 'Metalness', type: 'number', min: 0, max: 1, step: 0.01, unit: '', base: (s, m) => s.material(m)?.metallic },
  { id: 'material.roughness', facet: 'materials', on: 'material', label: 'Roughness', type: 'number', min: 0, max: 1, step: 0.01, unit: '', base: (s, m) => s.material(m)?.roughness },
  { id: 'material.transmission', facet: 'materials', on: 'material', label: 'Transmission', type: 'number', min: 0, max: 1, step: 0.01, unit: '', base: (s, m) => s.material(m)?.transmission },
  { id: 'material.emissionColor', facet: 'materials', on: 'material', label: 'Emission colour', type: 'color', base: (s, m) => s.material(m)?.emissionColor },
  { id: 'material.emissionStrength', facet: 'materials', on: 'material', label: 'Emission strength', type: 'number', min: 0, max: 1e6, step: 0.1, scale: 'log', unit: 'nt', base: (s, m) => s.material(m)?.emissionStrength },
  { id: 'material.lightGroup', facet: 'materials', on: 'material', label: 'Light group', type: 'choice', choices: lightGroups, base: (s, m) => { const x = s.material(m); return x && x.emissionStrength > 0 && Math.max(...x.emissionColor) > 0 ? '1' : undefined; } },
  { id: 'material.displacementMap', facet: 'materials', on: 'material', label: 'Displaced by', type: 'choice', choices: (s) => [{ value: 'none', label: 'Nothing' }, ...[...new Set(s.document.textures.map((t) => t.name))].map((name) => ({ value: name, label: name }))], base: (s, m) => (s.material(m) && s.document.textures.length ? 'none' : undefined) },
  { id: 'material.displacement', facet: 'materials', on: 'material', label: 'White raised by', type: 'number', min: -10, max: 10, step: 0.005, unit: 'm', base: (s, m) => (s.material(m) && s.document.textures.length ? 0.02 : undefined) },

  { id: 'object.shown', facet: 'visibility', on: 'object', label: 'Shown', type: 'boolean', base: object(true) },
  { id: 'object.seenByCamera', facet: 'visibility', on: 'object', label: 'Seen by the camera', type: 'boolean', base: object(true) },
  { id: 'object.seenInReflections', facet: 'visibility', on: 'object', label: 'Seen in reflections', type: 'boolean', base: object(true) },
  { id: 'object.castsShadow', facet: 'visibility', on: 'object', label: 'Casts shadow', type: 'boolean', base: object(true) },

  { id: 'object.offset', facet: 'placement', on: 'object', label: 'Moved', type: 'vector', min: -1e5, max: 1e5, step: 0.01, unit: 'm', base: object<Rgb>([0, 0, 0]) },
  { id: 'object.turn', facet: 'placement', on: 'object', label: 'Turned', type: 'vector', min: -360, max: 360, step: 1, unit: '°', base: object<Rgb>([0, 0, 0]) },
  { id: 'object.scale', facet: 'placement', on: 'object', label: 'Scaled', type: 'vector', min: 0.001, max: 1000, step: 0.01, unit: '×', base: object<Rgb>([1, 1, 1]) },

  { id: 'grade.exposure', facet: 'grade', on: 'grade', label: 'Exposure', type: 'number', min: -20, max: 20, step: 0.1, unit: 'EV', base: () => 0 },
  { id: 'grade.contrast', facet: 'grade', on: 'grade', label: 'Contrast', type: 'number', min: 0.2, max: 3, step: 0.01, unit: '×', base: () => 1 },
  { id: 'grade.saturation', facet: 'grade', on: 'grade', label: 'Saturation', type: 'number', min: 0, max: 3, step: 0.01, unit: '×', base: () => 1 },
  { id: 'grade.rolloff', facet: 'grade', on: 'grade', label: 'Highlight rolloff', type: 'number', min: 0, max: 1, step: 0.01, unit: '', base: () => 0.6 },
];

const BY_ID: ReadonlyMap<string, Property> = new Map(PROPERTIES.map((p) => [p.id, p]));
export const propertyOf = (id: string): Property | undefined => BY_ID.get(id);
export const unitOf = (p: Property, scene: SceneIndex, target: string): string => (p.type !== 'number' && p.type !== 'vector' ? '' : typeof p.unit === 'string' ? p.unit : p.unit(scene, parseTarget(target)?.name ?? ''));

/** Properties that a target has in this scene, in order of declaration. */
export function propertiesFor(scene: SceneIndex, target: string): Property[] {
  const t = parseTarget(target);
  if (!t) return [];
  const kinds: readonly TargetKind[] = [t.kind];
  return PROPERTIES.filter((p) => kinds.includes(p.on) && p.base(scene, t.name) !== undefined);
}

/** Says what is wrong with a value, or undefined where nothing is. */
export function faultOfValue(p: Property, value: unknown): string | undefined {
  switch (p.type) {
    case 'boolean': return typeof value === 'boolean' ? undefined : `${p.label} is yes or no.`;
    case 'number': return typeof value === 'number' && Number.isFinite(value) && value >= p.min && value <= p.max ? undefined : `${p.label} goes from ${p.min} to ${p.max}${typeof p.unit === 'string' && p.unit ? ` ${p.unit}` : ''}.`;
    case 'vector': return Array.isArray(value) && value.length === 3 && value.every((x) => typeof x === 'number' && Number.isFinite(x)) ? (value.every((x: number) => x >= p.min && x <= p.max) ? undefined : `${p.label} goes from ${p.min} to ${p.max} ${p.unit} along each axis.`) : `${p.label} is three numbers.`;
    case 'color': return Array.isArray(value) && value.length === 3 && value.every((x) => typeof x === 'number' && x >= 0 && x <= 1) ? undefined : `${p.label} is three numbers from 0 to 1.`;
    case 'choice': return typeof value === 'string' && value.length > 0 && value.length <= 500 ? undefined : `${p.label} is a name from the list.`;
  }
}
