import { ENVIRONMENT_KINDS, type EnvironmentKind } from '../../environment/index.ts';
import { type Property, type Value, lightGroups } from '../property.ts';

const skies = () => ENVIRONMENT_KINDS.map((e) => ({ value: e.id as string, label: e.label }));
/** What the camera, reflections or glass see instead of the sky that lights. */
const otherSkies = () => [{ value: 'same', label: 'As the sky' }, ...skies()];

const BACKDROP = { section: 'Backdrop', counts: (get: (id: string) => Value | undefined) => get('environment.backdrop') === true };

export const ENVIRONMENT_PROPERTIES: readonly Property[] = [
  { id: 'environment.kind', brings: 'environment', facet: 'environment', on: 'environment', label: 'Sky', type: 'choice', choices: skies, base: () => 'even' satisfies EnvironmentKind },
  { id: 'environment.strength', facet: 'environment', on: 'environment', label: 'Strength', type: 'number', min: 0, max: 1000, step: 0.01, scale: 'log', unit: '×', base: () => 1, linearInLight: true },
  { id: 'environment.turn', facet: 'environment', on: 'environment', label: 'Turn', type: 'number', min: -360, max: 360, step: 1, unit: '°', base: () => 0 },
  { id: 'environment.tint', facet: 'environment', on: 'environment', label: 'Tint', type: 'color', base: () => [1, 1, 1], linearInLight: true },
  { id: 'environment.saturation', facet: 'environment', on: 'environment', label: 'Saturation', type: 'number', min: 0, max: 3, step: 0.05, unit: '×', base: () => 1 },
  { id: 'environment.seen', section: 'Seen apart', brings: 'environment', facet: 'environment', on: 'environment', label: 'Camera sees', type: 'choice', choices: otherSkies, base: () => 'same' },
  { id: 'environment.reflected', section: 'Seen apart', brings: 'environment', facet: 'environment', on: 'environment', label: 'Reflections', type: 'choice', choices: otherSkies, base: () => 'same' },
  { id: 'environment.refracted', section: 'Seen apart', brings: 'environment', facet: 'environment', on: 'environment', label: 'Through glass', type: 'choice', choices: otherSkies, base: () => 'same' },
  { id: 'environment.group', facet: 'environment', on: 'environment', label: 'Light group', type: 'choice', choices: lightGroups, base: () => '1' },
  { id: 'environment.fogDensity', section: 'Fog', facet: 'environment', on: 'environment', label: 'Fog', type: 'number', min: 0, max: 10, step: 0.005, unit: '/m', base: () => 0 },
  { id: 'environment.fogColor', section: 'Fog', counts: (get) => get('environment.fogDensity') !== 0, facet: 'environment', on: 'environment', label: 'Fog colour', type: 'color', base: () => [0.9, 0.9, 0.9] },
  { id: 'environment.fogForward', section: 'Fog', counts: (get) => get('environment.fogDensity') !== 0, facet: 'environment', on: 'environment', label: 'Fog forwards', type: 'number', min: -0.95, max: 0.95, step: 0.05, unit: '', base: () => 0.4 },
  { id: 'environment.fogTop', section: 'Fog', counts: (get) => get('environment.fogDensity') !== 0, facet: 'environment', on: 'environment', label: 'Fog up to', type: 'number', min: -1000, max: 10000, step: 0.5, unit: 'm', base: () => 10 },
  { id: 'environment.plate', section: 'Plate', brings: 'image', facet: 'environment', on: 'environment', label: 'Behind all', type: 'choice', choices: () => [{ value: 'none', label: 'The sky' }], base: () => 'none' },
  { id: 'environment.plateStrength', section: 'Plate', counts: (get) => get('environment.plate') !== 'none', facet: 'environment', on: 'environment', label: 'Plate by', type: 'number', min: 0, max: 1000, step: 0.05, scale: 'log', unit: '×', base: () => 1 },
  { id: 'environment.backdrop', section: 'Backdrop', facet: 'environment', on: 'environment', label: 'Backdrop sweep', type: 'boolean', base: () => false },
  { id: 'environment.backdropSize', ...BACKDROP, facet: 'environment', on: 'environment', label: 'Size', type: 'vector', of: 'axes', min: 0.01, max: 1e4, step: 0.1, unit: 'm', base: () => [8, 4, 6] },
  { id: 'environment.backdropAt', ...BACKDROP, facet: 'environment', on: 'environment', label: 'Stands at', type: 'vector', of: 'axes', min: -1e5, max: 1e5, step: 0.1, unit: 'm', base: () => [0, 0, 0] },
  { id: 'environment.backdropTurn', ...BACKDROP, facet: 'environment', on: 'environment', label: 'Turned', type: 'number', min: -360, max: 360, step: 1, unit: '°', base: () => 0 },
  { id: 'environment.backdropColor', ...BACKDROP, facet: 'environment', on: 'environment', label: 'Colour', type: 'color', base: () => [0.5, 0.5, 0.5] },
  { id: 'environment.backdropRoughness', ...BACKDROP, facet: 'environment', on: 'environment', label: 'Roughness', type: 'number', min: 0, max: 1, step: 0.01, unit: '', base: () => 0.9 },
];
