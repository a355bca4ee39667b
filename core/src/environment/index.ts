// Skies made by the application itself, so that any scene can be lit without a download.
// Maps are latitude-longitude, RGB floats in nits: row 0 is straight up, the middle column looks along −Z, columns grow
// towards +X.
import { daylightMap, parseDaylight } from './daylight.ts';
import type { EnvironmentMap } from './environmentMap.ts';
import { HORIZON_BELOW, hazeBelow, horizonShare, parseGradient } from './gradientSky.ts';

export * from './environmentMap.ts';
export * from './imported.ts';
export * from './backdrop.ts';
export * from './plate.ts';
export * from './daylight.ts';
export * from './gradientSky.ts';

export const ENVIRONMENT_KINDS = [
  { id: 'even', label: 'Even grey' },
  { id: 'noon', label: 'Clear noon' },
  { id: 'overcast', label: 'Overcast' },
  { id: 'dusk', label: 'Dusk' },
  { id: 'night', label: 'Clear night' },
  { id: 'daylight', label: 'Sun’s daylight' },
  { id: 'gradient', label: 'Three colours' },
  { id: 'none', label: 'None' },
] as const;
export type EnvironmentKind = (typeof ENVIRONMENT_KINDS)[number]['id'];
/** A sky that is made here, by all that it is made from. */
export type MadeSky = keyof typeof SKIES | `daylight ${string}` | `gradient ${string}`;
export const isEnvironmentKind = (x: unknown): x is EnvironmentKind => ENVIRONMENT_KINDS.some((e) => e.id === x);

type Rgb = readonly [number, number, number];
interface Sky {
  readonly zenith: Rgb;
  readonly horizon: Rgb;
  readonly ground: Rgb;
  /** Glow around a direction: azimuth from −Z towards +X and elevation in degrees, colour, width in degrees. */
  readonly glows: readonly {
    readonly azimuth: number;
    readonly elevation: number;
    readonly color: Rgb;
    readonly width: number;
  }[];
}
const SKIES: Readonly<Record<Exclude<EnvironmentKind, 'none' | 'daylight' | 'gradient'>, Sky>> = {
  even: { zenith: [0.5, 0.5, 0.5], horizon: [0.5, 0.5, 0.5], ground: [0.25, 0.25, 0.25], glows: [] },
  noon: {
    zenith: [0.25, 0.45, 0.95],
    horizon: [0.85, 0.95, 1.05],
    ground: [0.25, 0.23, 0.2],
    glows: [{ azimuth: 140, elevation: 55, color: [3.2, 3, 2.6], width: 12 }],
  },
  overcast: { zenith: [0.85, 0.9, 0.96], horizon: [0.5, 0.53, 0.57], ground: [0.16, 0.16, 0.16], glows: [] },
  dusk: {
    zenith: [0.055, 0.085, 0.19],
    horizon: [0.42, 0.26, 0.2],
    ground: [0.04, 0.035, 0.035],
    glows: [
      { azimuth: -35, elevation: 2, color: [1.5, 0.62, 0.22], width: 22 },
      { azimuth: 150, elevation: 8, color: [0.12, 0.1, 0.2], width: 50 },
    ],
  },
  night: {
    zenith: [0.006, 0.009, 0.021],
    horizon: [0.016, 0.02, 0.036],
    ground: [0.004, 0.004, 0.005],
    glows: [{ azimuth: 60, elevation: 38, color: [0.1, 0.12, 0.16], width: 5 }],
  },
};

/** Width is twice the height. */
export function generateEnvironment(made: MadeSky, height = 128): EnvironmentMap {
  const daylight = parseDaylight(made);
  if (daylight) return daylightMap(daylight, height);
  const gradient = parseGradient(made);
  return paintedSky(gradient ? { ...gradient, glows: [] } : SKIES[made as keyof typeof SKIES], height);
}
function paintedSky(sky: Sky, height: number): EnvironmentMap {
  const width = height * 2;
  const data = new Float32Array(width * height * 3);
  const rad = Math.PI / 180;
  const glows = sky.glows.map((g) => ({
    ...g,
    d: [
      Math.sin(g.azimuth * rad) * Math.cos(g.elevation * rad),
      Math.sin(g.elevation * rad),
      -Math.cos(g.azimuth * rad) * Math.cos(g.elevation * rad),
    ] as const,
  }));
  for (let y = 0; y < height; y++) {
    const theta = (Math.PI * (y + 0.5)) / height;
    const up = Math.cos(theta);
    const flat = Math.sin(theta);
    const k = up >= 0 ? horizonShare(up) : hazeBelow(up);
    for (let x = 0; x < width; x++) {
      const phi = 2 * Math.PI * ((x + 0.5) / width - 0.5);
      const d = [flat * Math.sin(phi), up, -flat * Math.cos(phi)] as const;
      for (let c = 0; c < 3; c++) {
        let v =
          up >= 0
            ? sky.zenith[c]! * (1 - k) + sky.horizon[c]! * k
            : sky.ground[c]! * (1 - k) + sky.horizon[c]! * k * HORIZON_BELOW;
        for (const g of glows) {
          const angle = Math.acos(Math.min(1, Math.max(-1, d[0] * g.d[0] + d[1] * g.d[1] + d[2] * g.d[2]))) / rad;
          v += g.color[c]! * Math.exp(-((angle / g.width) ** 2)) * (up < 0 ? Math.max(0, 1 + up * 6) : 1);
        }
        data[(y * width + x) * 3 + c] = v;
      }
    }
  }
  return { width, height, data };
}
