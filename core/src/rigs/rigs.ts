// Starting rigs: where their lights stand about a subject, how large and how strong they are, and under which sky. All
// of a size with the subject and turned to the camera; what is made of one are ordinary lights and sky values.
import type { EnvironmentKind } from '../environment/index.ts';
import type { Rgb } from '../scene/index.ts';

/** Shapes, in radii of the subject. */
export type RigShape =
  | { readonly type: 'rectangle'; readonly width: number; readonly height: number }
  | { readonly type: 'disc' | 'ball'; readonly radius: number };

export type RigRole = 'key' | 'fill';
export interface RigLight {
  readonly name: string;
  readonly shape: RigShape;
  /** About the subject, from where the camera stands towards its right, degrees. */
  readonly azimuthDeg: number;
  readonly elevationDeg: number;
  /** From the subject's middle, in radii. */
  readonly distance: number;
  /** How bright it makes white paper at the subject's middle that faces it; 1 is white. */
  readonly white: number;
  readonly kelvin: number;
  /** The contrast between keys and fills can be changed. */
  readonly role: RigRole;
}
export interface RigSky {
  readonly kind: EnvironmentKind;
  readonly strength: number;
  /** Of daylight: from where the camera stands towards its right, as lights have it. */
  readonly sun?: { readonly azimuthDeg: number; readonly elevationDeg: number; readonly haze: number };
}
export interface Rig {
  readonly id: string;
  readonly label: string;
  /** What it is for. */
  readonly about: string;
  readonly lights: readonly RigLight[];
  readonly sky: RigSky;
  /** Colour of a sweep behind the subject; absent: none. */
  readonly sweep?: Rgb;
  /** The scene's own lights belong to it. */
  readonly keepsLights?: true;
}

const DAY_KELVIN = 5600;
const panel = (
  name: string,
  [azimuthDeg, elevationDeg, distance]: readonly [number, number, number],
  [width, height]: readonly [number, number],
  white: number,
  role: RigRole,
  kelvin = DAY_KELVIN,
): RigLight => ({
  name,
  shape: { type: 'rectangle', width, height },
  azimuthDeg,
  elevationDeg,
  distance,
  white,
  kelvin,
  role,
});
const round = (
  name: string,
  type: 'disc' | 'ball',
  [azimuthDeg, elevationDeg, distance]: readonly [number, number, number],
  radius: number,
  white: number,
  role: RigRole,
  kelvin = DAY_KELVIN,
): RigLight => ({ name, shape: { type, radius }, azimuthDeg, elevationDeg, distance, white, kelvin, role });

export const RIGS: readonly Rig[] = [
  {
    id: 'softBoxes',
    label: 'Three soft boxes',
    about: 'A key, a fill and a light from behind: shows form, flatters most things',
    lights: [
      panel('Key', [-45, 35, 3.2], [1.8, 1.8], 0.7, 'key'),
      panel('Fill', [50, 15, 3.6], [2.2, 2.2], 0.25, 'fill'),
      panel('Back', [160, 50, 3], [1.4, 1.4], 0.6, 'key'),
    ],
    sky: { kind: 'even', strength: 0.06 },
  },
  {
    id: 'rims',
    label: 'Rim pair',
    about: 'Two edges of light from behind: outlines, dark fronts',
    lights: [
      panel('Rim left', [-140, 20, 2.8], [0.7, 2.4], 0.9, 'key'),
      panel('Rim right', [140, 20, 2.8], [0.7, 2.4], 0.9, 'key'),
      round('Front', 'disc', [0, 30, 3.5], 1, 0.06, 'fill'),
    ],
    sky: { kind: 'none', strength: 1 },
  },
  {
    id: 'highKey',
    label: 'High key',
    about: 'Bright all round before white: catalogues, cut-outs',
    lights: [
      panel('Top', [0, 80, 3], [2.6, 2.6], 0.45, 'key'),
      panel('Left', [-60, 25, 3.2], [2.4, 2.4], 0.4, 'fill'),
      panel('Right', [60, 25, 3.2], [2.4, 2.4], 0.35, 'fill'),
    ],
    sky: { kind: 'even', strength: 0.8 },
    sweep: [0.92, 0.92, 0.92],
  },
  {
    id: 'lowKey',
    label: 'Low key',
    about: 'One light from the side, and darkness: mood, texture',
    lights: [
      panel('Key', [-80, 35, 2.6], [0.8, 1.2], 0.6, 'key'),
      panel('Edge', [150, 30, 3], [0.4, 1.6], 0.2, 'fill'),
    ],
    sky: { kind: 'none', strength: 1 },
  },
  {
    id: 'window',
    label: 'Window light',
    about: 'One large soft window, and what the room gives back',
    lights: [
      panel('Window', [-85, 12, 2.6], [2.2, 2.8], 0.75, 'key', 7200),
      panel('Room', [95, 5, 3], [2, 2], 0.07, 'fill', 4500),
    ],
    sky: { kind: 'even', strength: 0.03 },
  },
  {
    id: 'sweep',
    label: 'Sweep with top light',
    about: 'A grey sweep under one large light: products on a ground',
    lights: [
      panel('Top', [180, 72, 3], [2.6, 2.2], 0.75, 'key'),
      round('Front', 'disc', [-20, 25, 3.6], 0.9, 0.16, 'fill'),
    ],
    sky: { kind: 'even', strength: 0.08 },
    sweep: [0.5, 0.5, 0.5],
  },
  {
    id: 'sun',
    label: 'Sun and sky',
    about: 'Daylight, with the sun where it is set: facades, streets, vehicles',
    lights: [],
    sky: { kind: 'daylight', strength: 1, sun: { azimuthDeg: -55, elevationDeg: 38, haze: 3 } },
  },
  {
    id: 'overcast',
    label: 'Overcast',
    about: 'A grey sky and no shadow: true colours',
    lights: [],
    sky: { kind: 'overcast', strength: 1.1 },
  },
  {
    id: 'blueHour',
    label: 'Blue hour',
    about: 'After sunset, with two warm lamps near by',
    lights: [
      round('Lamp left', 'ball', [-120, 12, 1.5], 0.1, 0.3, 'key', 2600),
      round('Lamp right', 'ball', [110, 8, 1.6], 0.1, 0.2, 'key', 2600),
    ],
    sky: { kind: 'dusk', strength: 1.6 },
  },
  {
    id: 'night',
    label: 'Night with practicals',
    about: 'The scene’s own lamps, warm ones about it, and a little moon',
    lights: [
      round('Lamp left', 'ball', [-60, 15, 1.4], 0.08, 0.3, 'key', 2400),
      round('Lamp right', 'ball', [75, 10, 1.5], 0.08, 0.22, 'key', 2400),
      round('Lamp back', 'ball', [170, 20, 1.6], 0.08, 0.3, 'key', 2400),
      round('Moon', 'disc', [150, 55, 6], 1, 0.05, 'fill', 8500),
    ],
    sky: { kind: 'night', strength: 2 },
    keepsLights: true,
  },
];
