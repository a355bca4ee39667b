// The demo's looks: what a wrangler would have recorded on the tea stall.
import type { Change, Facet } from '@variscen/core/looks';

export interface DemoOption {
  readonly facet: Facet;
  readonly name: string;
  readonly changes: readonly Change[];
}
export interface DemoVariant {
  readonly options: readonly string[];
}

const LANTERNS = Array.from({ length: 14 }, (_, i) => `light:Harvest fair/Lanterns/Lantern ${i + 1}/Flame`);
const COUNTER_LAMP = 'light:Harvest fair/Lights/Counter lamp';
const SUN = 'light:Harvest fair/Lights/Evening sun';
const PANEL = 'light:Harvest fair/Lights/Photographer’s panel';
const set = (target: string, property: string, value: Change['value']): Change => ({ target, property, value });
const object = (path: string) => `object:Harvest fair/${path}`;

/** The stall is open and the photographer's panel is off, until a look says otherwise. */
export const DEMO_BASE: readonly Change[] = [
  set(object('Shutters'), 'object.shown', false),
  set(PANEL, 'light.on', false),
  set(SUN, 'light.on', false),
  set('environment', 'environment.kind', 'dusk'),
  set('environment', 'environment.turn', 20),
  set('grade', 'grade.exposure', 0.1),
];

export const DEMO_OPTIONS: readonly DemoOption[] = [
  {
    facet: 'lighting',
    name: 'Paper lanterns',
    changes: [
      ...LANTERNS.map((l) => set(l, 'light.intensity', 3.6)),
      set(COUNTER_LAMP, 'light.intensity', 3.5),
      set(COUNTER_LAMP, 'light.color', [1, 0.6, 0.3]),
    ],
  },
  {
    facet: 'lighting',
    name: 'Evening sun',
    changes: [
      set(SUN, 'light.on', true),
      set(SUN, 'light.intensity', 3.2),
      ...LANTERNS.map((l) => set(l, 'light.on', false)),
      set('light:Harvest fair/Lights/Counter lamp', 'light.on', false),
    ],
  },
  {
    facet: 'lighting',
    name: 'Panel and lamp',
    changes: [
      set(PANEL, 'light.on', true),
      set(PANEL, 'light.intensity', 3.2),
      set(COUNTER_LAMP, 'light.intensity', 9),
      ...LANTERNS.slice(4).map((l) => set(l, 'light.intensity', 0.8)),
    ],
  },
  {
    facet: 'environment',
    name: 'Clear night',
    changes: [set('environment', 'environment.kind', 'night'), set('environment', 'environment.strength', 1.6)],
  },
  {
    facet: 'environment',
    name: 'Overcast',
    changes: [
      set('environment', 'environment.kind', 'overcast'),
      set('environment', 'environment.strength', 0.55),
      set('environment', 'environment.tint', [0.93, 0.97, 1]),
    ],
  },
  {
    facet: 'environment',
    name: 'Clear noon',
    changes: [
      set('environment', 'environment.kind', 'noon'),
      set('environment', 'environment.strength', 0.7),
      set('environment', 'environment.turn', -60),
    ],
  },
  {
    facet: 'materials',
    name: 'Celadon ware',
    changes: [
      set(object('Ware/Kettle, large'), 'object.material', 'Celadon'),
      set(object('Ware/Kettle, small'), 'object.material', 'Copper'),
      set('material:Bunting teal', 'material.baseColor', [0.45, 0.09, 0.06]),
    ],
  },
  {
    facet: 'materials',
    name: 'Indigo ware',
    changes: [
      set(object('Ware/Kettle, large'), 'object.material', 'Indigo enamel'),
      set('material:Cream glaze', 'material.baseColor', [0.5, 0.56, 0.62]),
      set('material:Bunting teal', 'material.baseColor', [0.62, 0.5, 0.24]),
    ],
  },
  {
    facet: 'materials',
    name: 'Dry lane',
    changes: [
      set('material:Wet ground', 'material.baseColor', [0.16, 0.145, 0.13]),
      set('material:Cobble stone', 'material.roughness', 0.95),
      set('material:Roof clay', 'material.baseColor', [0.46, 0.2, 0.12]),
    ],
  },
  {
    facet: 'visibility',
    name: 'Shutters down',
    changes: [set(object('Shutters'), 'object.shown', true), set(object('Dressing/Stools'), 'object.shown', false)],
  },
  { facet: 'visibility', name: 'No bunting', changes: [set(object('Bunting'), 'object.shown', false)] },
  {
    facet: 'visibility',
    name: 'Ware alone',
    changes: [
      set(object('Dressing'), 'object.shown', false),
      set(object('Bunting'), 'object.shown', false),
      set(object('Quince tree'), 'object.seenByCamera', false),
    ],
  },
  {
    facet: 'placement',
    name: 'Ware apart',
    changes: [set(object('Ware'), 'object.explode', 0.5), set(object('Ware'), 'object.explodeWay', 'y')],
  },
  {
    facet: 'placement',
    name: 'Row of kettles',
    changes: [
      set(object('Ware/Kettle, small'), 'object.copyLayout', 'grid'),
      set(object('Ware/Kettle, small'), 'object.copyCount', [4, 1, 1]),
      set(object('Ware/Kettle, small'), 'object.copySpacing', [0.26, 0, 0]),
    ],
  },
  {
    facet: 'grade',
    name: 'Bright print',
    changes: [set('grade', 'grade.exposure', 0.7), set('grade', 'grade.contrast', 1.06)],
  },
];

export const DEMO_VARIANTS: readonly DemoVariant[] = [
  { options: [] },
  { options: ['Celadon ware'] },
  { options: ['Paper lanterns', 'Clear night', 'Bright print'] },
  { options: ['Paper lanterns', 'Clear night', 'Celadon ware', 'Bright print'] },
  { options: ['Panel and lamp', 'Clear night', 'Indigo ware'] },
  { options: ['Evening sun', 'Clear noon', 'Dry lane', 'No bunting'] },
  { options: ['Evening sun', 'Overcast', 'Ware alone'] },
  { options: ['Paper lanterns', 'Overcast', 'Shutters down'] },
];
