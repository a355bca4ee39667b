import type { Rgb } from '../../scene/index.ts';
import { type Property, type SceneIndex, ofObject } from '../property.ts';

export const COPY_LAYOUTS = [
  { value: 'none', label: 'None' },
  { value: 'grid', label: 'Rows and grid' },
  { value: 'ring', label: 'Ring' },
] as const;
export const EXPLODE_WAYS = [
  { value: 'centre', label: 'From the middle' },
  { value: 'x', label: 'Along X' },
  { value: 'y', label: 'Along Y, up' },
  { value: 'z', label: 'Along Z' },
] as const;
export const EXPLODE_PARTS = [
  { value: 'whole', label: 'Groups stay whole' },
  { value: 'each', label: 'Every object apart' },
] as const;

const NONE: Rgb = [0, 0, 0];
const ONE: Rgb = [1, 1, 1];
const common = { facet: 'placement', on: 'object' } as const;
const axes = { ...common, type: 'vector', of: 'axes' } as const;
/** For groups only: what has nothing in it cannot come apart. */
const group =
  <T>(value: T) =>
  (s: SceneIndex, path: string): T | undefined =>
    s.hasChildren(path) ? value : undefined;

export const PLACEMENT_PROPERTIES_DECLARED: readonly Property[] = [
  {
    ...axes,
    id: 'object.offset',
    label: 'Move',
    min: -1e5,
    max: 1e5,
    step: 0.01,
    unit: 'm',
    base: ofObject<Rgb>(NONE),
  },
  { ...axes, id: 'object.turn', label: 'Rotation', min: -360, max: 360, step: 1, unit: '°', base: ofObject<Rgb>(NONE) },
  {
    ...axes,
    id: 'object.scale',
    label: 'Scale',
    min: 0.001,
    max: 1000,
    step: 0.01,
    unit: '×',
    base: ofObject<Rgb>(ONE),
  },
  {
    ...common,
    id: 'object.explode',
    section: 'Explode',
    label: 'Exploded by',
    type: 'number',
    min: -1,
    max: 100,
    step: 0.1,
    unit: '×',
    base: group(0),
  },
  {
    ...common,
    id: 'object.explodeWay',
    section: 'Explode',
    counts: (get) => get('object.explode') !== 0,
    label: 'Explode',
    type: 'choice',
    choices: () => EXPLODE_WAYS,
    base: group<string>('centre'),
  },
  {
    ...common,
    id: 'object.explodeParts',
    section: 'Explode',
    counts: (get) => get('object.explode') !== 0,
    label: 'Apart',
    type: 'choice',
    choices: () => EXPLODE_PARTS,
    base: group<string>('whole'),
  },
  {
    ...common,
    id: 'object.copyLayout',
    section: 'Copies',
    label: 'Copies',
    type: 'choice',
    choices: () => COPY_LAYOUTS,
    base: ofObject<string>('none'),
  },
  {
    ...axes,
    id: 'object.copyCount',
    section: 'Copies',
    counts: (get) => get('object.copyLayout') !== 'none',
    label: 'Number',
    whole: true,
    min: 1,
    max: 1000,
    step: 1,
    unit: '',
    base: ofObject<Rgb>([3, 1, 1]),
  },
  {
    ...axes,
    id: 'object.copySpacing',
    section: 'Copies',
    counts: (get) => get('object.copyLayout') === 'grid',
    label: 'Apart by',
    min: -1e4,
    max: 1e4,
    step: 0.05,
    unit: 'm',
    base: ofObject<Rgb>([0.5, 0.5, 0.5]),
  },
  {
    ...common,
    id: 'object.ringRadius',
    section: 'Copies',
    counts: (get) => get('object.copyLayout') === 'ring',
    label: 'Ring radius',
    type: 'number',
    min: 0,
    max: 1e4,
    step: 0.05,
    unit: 'm',
    base: ofObject(1),
  },
  {
    ...axes,
    id: 'object.copyTurn',
    section: 'Copies',
    counts: (get) => get('object.copyLayout') !== 'none',
    label: 'Rotation of each',
    min: -360,
    max: 360,
    step: 1,
    unit: '°',
    base: ofObject<Rgb>(NONE),
  },
];
