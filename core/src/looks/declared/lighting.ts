import { LIGHT_UNITS, type LightType, type SceneLight, isPanel } from '../../scene/index.ts';
import { EVEN_LIGHT } from '../photometry.ts';
import { ADDED, isAddedPath } from '../targets.ts';
import { type Property, type SceneIndex, lightGroups, textureNames } from '../property.ts';

/** The temperature at which a light keeps its own colour. */
export const NEUTRAL_KELVIN = 6500;
/** What a light follows with its aim. */
export const AIM = 'light.aimAt';
export const UNAIMED = 'none';
/** A point and a ball shine everywhere, a sun stands nowhere. */
const aims = (type: LightType | undefined): boolean => type === 'spot' || type === 'rectangle' || type === 'disc';

/** Lights of some types only. */
const only =
  <T>(read: (light: SceneLight) => T | undefined) =>
  (s: SceneIndex, p: string): T | undefined => {
    const l = s.light(p);
    return l && read(l);
  };
const any =
  <T>(value: T) =>
  (s: SceneIndex, p: string): T | undefined =>
    s.light(p) ? value : undefined;
const DEGREES = 180 / Math.PI;
const degrees = (rad: number): number => Number((rad * DEGREES).toFixed(4));

export const LIGHTING_PROPERTIES: readonly Property[] = [
  {
    id: ADDED,
    facet: 'lighting',
    on: 'light',
    label: 'Added',
    type: 'boolean',
    base: (_, path) => (isAddedPath(path) ? false : undefined),
    unlisted: true,
    linearInLight: true,
  },
  {
    id: 'light.on',
    facet: 'lighting',
    on: 'light',
    label: 'On',
    type: 'boolean',
    base: any(true),
    linearInLight: true,
  },
  {
    id: 'light.intensity',
    facet: 'lighting',
    on: 'light',
    label: 'Strength',
    type: 'number',
    min: 0,
    max: 1e6,
    step: 0.1,
    scale: 'log',
    unit: (s, p) => {
      const l = s.light(p);
      return l ? LIGHT_UNITS[l.type] : '';
    },
    base: only((l) => l.intensity),
    linearInLight: true,
  },
  {
    id: 'light.color',
    facet: 'lighting',
    on: 'light',
    label: 'Colour',
    type: 'color',
    base: only((l) => l.color),
    linearInLight: true,
  },
  {
    id: 'light.temperature',
    facet: 'lighting',
    on: 'light',
    label: 'Temperature',
    type: 'number',
    min: 1700,
    max: 25_000,
    step: 100,
    unit: 'K',
    base: any(NEUTRAL_KELVIN),
    linearInLight: true,
  },
  {
    id: 'light.radius',
    facet: 'lighting',
    on: 'light',
    label: 'Radius',
    type: 'number',
    min: 0,
    max: 10,
    step: 0.005,
    unit: 'm',
    base: only((l) => ('radiusM' in l ? l.radiusM : undefined)),
  },
  {
    id: 'light.width',
    facet: 'lighting',
    on: 'light',
    label: 'Width',
    type: 'number',
    min: 0.001,
    max: 1000,
    step: 0.05,
    unit: 'm',
    base: only((l) => (l.type === 'rectangle' ? l.widthM : undefined)),
  },
  {
    id: 'light.height',
    facet: 'lighting',
    on: 'light',
    label: 'Height',
    type: 'number',
    min: 0.001,
    max: 1000,
    step: 0.05,
    unit: 'm',
    base: only((l) => (l.type === 'rectangle' ? l.heightM : undefined)),
  },
  {
    id: 'light.picture',
    facet: 'lighting',
    on: 'light',
    label: 'Picture',
    type: 'choice',
    brings: 'image',
    choices: textureNames,
    base: only((l) => (l.type === 'rectangle' || l.type === 'disc' ? 'none' : undefined)),
  },
  {
    id: 'light.spread',
    facet: 'lighting',
    on: 'light',
    label: 'Spread',
    type: 'number',
    min: 5,
    max: 180,
    step: 5,
    unit: '°',
    base: only((l) => (l.type === 'rectangle' || l.type === 'disc' ? 180 : undefined)),
  },
  {
    id: 'light.diameter',
    facet: 'lighting',
    on: 'light',
    label: 'Apparent size',
    type: 'number',
    min: 0,
    max: 90,
    step: 0.1,
    unit: '°',
    base: only((l) => (l.type === 'sun' ? degrees(l.angularDiameterRad) : undefined)),
  },
  {
    id: 'light.cone',
    facet: 'lighting',
    on: 'light',
    label: 'Outer cone',
    type: 'number',
    min: 1,
    max: 179,
    step: 1,
    unit: '°',
    base: only((l) => (l.type === 'spot' ? degrees(l.outerConeRad * 2) : undefined)),
  },
  {
    id: 'light.coneInner',
    facet: 'lighting',
    on: 'light',
    label: 'Inner cone',
    type: 'number',
    min: 0,
    max: 179,
    step: 1,
    unit: '°',
    base: only((l) => (l.type === 'spot' ? degrees(l.innerConeRad * 2) : undefined)),
  },
  {
    id: AIM,
    section: 'Position and aim',
    facet: 'lighting',
    on: 'light',
    label: 'Aimed at',
    type: 'choice',
    picks: 'object',
    choices: () => [{ value: UNAIMED, label: 'nothing' }],
    base: (s, p) => (aims(s.light(p)?.type) && !s.hasChildren(p) && !s.node(p)?.parts ? UNAIMED : undefined),
  },
  {
    id: 'light.offset',
    section: 'Position and aim',
    facet: 'lighting',
    on: 'light',
    label: 'Move',
    type: 'vector',
    of: 'axes',
    min: -1e5,
    max: 1e5,
    step: 0.01,
    unit: 'm',
    base: only((l) => (l.type === 'sun' ? undefined : ([0, 0, 0] as const))),
  },
  {
    id: 'light.turn',
    section: 'Position and aim',
    facet: 'lighting',
    on: 'light',
    label: 'Rotation',
    type: 'vector',
    of: 'axes',
    min: -360,
    max: 360,
    step: 1,
    unit: '°',
    base: only((l) => (l.type === 'point' || l.type === 'ball' ? undefined : ([0, 0, 0] as const))),
  },
  {
    id: 'light.profile',
    facet: 'lighting',
    on: 'light',
    label: 'Shape of light',
    type: 'choice',
    brings: 'ies',
    choices: () => [{ value: EVEN_LIGHT, label: 'Even' }],
    base: only((l) => (l.type === 'point' || l.type === 'spot' ? EVEN_LIGHT : undefined)),
  },
  { id: 'light.castsShadow', facet: 'lighting', on: 'light', label: 'Casts shadow', type: 'boolean', base: any(true) },
  {
    id: 'light.seenByCamera',
    facet: 'lighting',
    on: 'light',
    label: 'Seen by the camera',
    type: 'boolean',
    base: only((l) => (isPanel(l.type) ? false : undefined)),
  },
  {
    id: 'light.group',
    facet: 'lighting',
    on: 'light',
    label: 'Light group',
    type: 'choice',
    choices: lightGroups,
    base: any<string>('1'),
  },
];
