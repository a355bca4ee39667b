// The sky of a clear or hazy day, and the light of its sun.
// Sky: A. J. Preetham, P. Shirley, B. Smits, “A Practical Analytic Model for Daylight”, SIGGRAPH 1999, with the
// luminance and chromaticity of that paper's appendix. Sun: its attenuation by air and haze, at the three wavelengths
// that stand for red, green and blue here. Where the sun stands: suncalc.
// Directions: north is −Z, east +X; azimuths from north to east.
import { getPosition } from 'suncalc';
import { luminanceAt, rgbOfXyz } from '../image/index.ts';
import type { EnvironmentMap } from './environmentMap.ts';

type Rgb = readonly [number, number, number];

export interface Daylight {
  /** Of the sun over the horizon, degrees; below it the sky darkens as in twilight. */
  readonly elevationDeg: number;
  readonly azimuthDeg: number;
  /** Turbidity: 2 a very clear day, 10 a hazy one. */
  readonly haze: number;
}
/** Below this no twilight is left that the model could tell of. */
export const LEAST_ELEVATION_DEG = -6;
export const HAZE = { min: 2, max: 10 } as const;

/** So many lux on white paper make it as bright as white in the picture. */
const WHITE_LUX = 100_000;
/** From the paper's cd/m² to this application's, in which white paper has 1. */
const SCALE = Math.PI / WHITE_LUX;
const RAD = Math.PI / 180;

const PREFIX = 'daylight';
/** How a sky is called by what it is made from; the same name, the same sky. */
export const daylightName = ({ elevationDeg, azimuthDeg, haze }: Daylight): string =>
  `${PREFIX} ${elevationDeg} ${azimuthDeg} ${haze}`;
export function parseDaylight(name: string): Daylight | undefined {
  const [prefix, ...numbers] = name.split(' ');
  const [elevationDeg, azimuthDeg, haze] = numbers.map(Number);
  const isOne =
    prefix === PREFIX && numbers.length === 3 && numbers.every((x) => x !== '' && Number.isFinite(Number(x)));
  return isOne ? { elevationDeg: elevationDeg!, azimuthDeg: azimuthDeg!, haze: haze! } : undefined;
}

/**
 * Where the sun is seen.
 * @param place degrees, north and east
 */
export function sunAt(
  when: Date,
  place: { readonly latitudeDeg: number; readonly longitudeDeg: number },
): Pick<Daylight, 'elevationDeg' | 'azimuthDeg'> {
  const { azimuth, altitude } = getPosition(when, place.latitudeDeg, place.longitudeDeg);
  return { elevationDeg: altitude, azimuthDeg: azimuth };
}

/** Towards the sun. */
export function sunDirection({ elevationDeg, azimuthDeg }: Pick<Daylight, 'elevationDeg' | 'azimuthDeg'>): Rgb {
  const flat = Math.cos(elevationDeg * RAD);
  return [Math.sin(azimuthDeg * RAD) * flat, Math.sin(elevationDeg * RAD), -Math.cos(azimuthDeg * RAD) * flat];
}

/** Perez' five coefficients of luminance and both chromaticities, linear in turbidity. */
const PEREZ: readonly (readonly [number, number])[][] = [
  [
    [0.1787, -1.463],
    [-0.3554, 0.4275],
    [-0.0227, 5.3251],
    [0.1206, -2.5771],
    [-0.067, 0.3703],
  ],
  [
    [-0.0193, -0.2592],
    [-0.0665, 0.0008],
    [-0.0004, 0.2125],
    [-0.0641, -0.8989],
    [-0.0033, 0.0452],
  ],
  [
    [-0.0167, -0.2608],
    [-0.095, 0.0092],
    [-0.0079, 0.2102],
    [-0.0441, -1.6537],
    [-0.0109, 0.0529],
  ],
];
/** Chromaticities of the zenith: rows by T², T, 1; columns by θ³, θ², θ, 1 of the sun's angle from it. */
const ZENITH_X = [
  [0.00166, -0.00375, 0.00209, 0],
  [-0.02903, 0.06377, -0.03202, 0.00394],
  [0.11693, -0.21196, 0.06052, 0.25886],
] as const;
const ZENITH_Y = [
  [0.00275, -0.0061, 0.00317, 0],
  [-0.04214, 0.0897, -0.04153, 0.00516],
  [0.15346, -0.26756, 0.0667, 0.26688],
] as const;

/** A sun below this makes the model's zenith dark; twilight goes on from there. */
const MODEL_LEAST_DEG = 2;
/** Decades by which twilight darkens with each degree, as from 400 lux at sunset to 3.4 at −6° (civil twilight). */
const TWILIGHT_DECADES = 0.345;
const darkened = (elevationDeg: number): number =>
  elevationDeg >= MODEL_LEAST_DEG ? 1 : 10 ** ((elevationDeg - MODEL_LEAST_DEG) * TWILIGHT_DECADES);

/** What is known of a sky before any direction is asked. */
class Sky {
  private readonly sun: Rgb;
  private readonly coefficients: readonly (readonly number[])[];
  /** Luminance in cd/m², x, y: at the zenith, over what the distribution says there. */
  private readonly base: readonly number[];
  private readonly share: number;

  constructor(d: Daylight) {
    const t = d.haze;
    const elevationDeg = Math.max(MODEL_LEAST_DEG, d.elevationDeg);
    const angle = (90 - elevationDeg) * RAD;
    this.sun = sunDirection({ ...d, elevationDeg });
    this.coefficients = PEREZ.map((rows) => rows.map(([a, b]) => a * t + b));
    const chi = (4 / 9 - t / 120) * (Math.PI - 2 * angle);
    const zenith = [
      1000 * ((4.0453 * t - 4.971) * Math.tan(chi) - 0.2155 * t + 2.4192),
      chromaticity(ZENITH_X, t, angle),
      chromaticity(ZENITH_Y, t, angle),
    ];
    this.base = zenith.map((z, k) => z / distribution(this.coefficients[k]!, 1, angle));
    this.share = darkened(d.elevationDeg) * SCALE;
  }

  /** Towards a direction above the horizon, of length 1; nits of this application. */
  radiance(d: Rgb): Rgb {
    const up = Math.max(0.01, d[1]);
    const cos = Math.min(1, Math.max(-1, d[0] * this.sun[0] + d[1] * this.sun[1] + d[2] * this.sun[2]));
    const gamma = Math.acos(cos);
    const [luminance, x, y] = this.base.map((z, k) => z * distribution(this.coefficients[k]!, up, gamma));
    const l = Math.max(0, luminance!) * this.share;
    const rgb = rgbOfXyz([(x! / y!) * l, l, ((1 - x! - y!) / y!) * l]);
    return [Math.max(0, rgb[0]), Math.max(0, rgb[1]), Math.max(0, rgb[2])];
  }
}
/** Perez et al. 1993. @param up cosine of the angle from the zenith @param gamma angle from the sun */
function distribution([a, b, c, d, e]: readonly number[], up: number, gamma: number): number {
  return (1 + a! * Math.exp(b! / up)) * (1 + c! * Math.exp(d! * gamma) + e! * Math.cos(gamma) ** 2);
}
function chromaticity(rows: readonly (readonly number[])[], t: number, angle: number): number {
  const powers = [angle ** 3, angle ** 2, angle, 1];
  const byAngle = rows.map((row) => row.reduce((sum, k, i) => sum + k * powers[i]!, 0));
  return byAngle[0]! * t * t + byAngle[1]! * t + byAngle[2]!;
}

/** What the ground gives back. */
const GROUND: Rgb = [0.2, 0.18, 0.16];
/** Rows at which the horizon goes over into the ground, as a share of the way down. */
const HORIZON_BAND = 0.02;

/** Latitude-longitude, as all skies that the application makes; without the sun itself. */
export function daylightMap(d: Daylight, height: number): EnvironmentMap {
  const sky = new Sky(d);
  const width = height * 2;
  const data = new Float32Array(width * height * 3);
  const lit = illuminance(d);
  const ground = GROUND.map((albedo, c) => (albedo * lit[c]!) / Math.PI);
  for (let y = 0; y < height; y++) {
    const theta = (Math.PI * (y + 0.5)) / height;
    const up = Math.cos(theta);
    const flat = Math.sin(theta);
    const below = Math.min(1, Math.max(0, -up / HORIZON_BAND));
    for (let x = 0; x < width; x++) {
      const phi = 2 * Math.PI * ((x + 0.5) / width - 0.5);
      const above = sky.radiance([flat * Math.sin(phi), Math.max(0, up), -flat * Math.cos(phi)]);
      for (let c = 0; c < 3; c++) data[(y * width + x) * 3 + c] = above[c]! * (1 - below) + ground[c]! * below;
    }
  }
  return { width, height, data };
}

/** Micrometres that stand for red, green and blue. */
const WAVELENGTHS: Rgb = [0.615, 0.535, 0.445];
/** Above the air, lux. */
const SOLAR_LUX = 128_000;

/** Across its beam, in lux of this application, red, green and blue; nothing below the horizon. */
export function sunIlluminance({ elevationDeg, haze }: Daylight): Rgb {
  if (elevationDeg <= 0) return [0, 0, 0];
  // relative optical air mass (Kasten 1966)
  const mass = 1 / (Math.sin(elevationDeg * RAD) + 0.15 * (elevationDeg + 3.885) ** -1.253);
  // Ångström's turbidity of the paper's appendix
  const beta = 0.04608 * haze - 0.04586;
  const left = WAVELENGTHS.map((l) => Math.exp(-mass * (0.008735 * l ** -4.08 + beta * l ** -1.3)));
  return left.map((x) => x * SOLAR_LUX * SCALE) as unknown as Rgb;
}
/** As a light has it: a colour whose brightest channel is 1, and how strong. */
export function sunLight(d: Daylight): { readonly color: Rgb; readonly lux: number } {
  const rgb = sunIlluminance(d);
  const lux = Math.max(...rgb);
  return { color: lux > 0 ? (rgb.map((x) => x / lux) as unknown as Rgb) : [1, 1, 1], lux };
}
export const luminanceOf = (rgb: Rgb): number => luminanceAt(rgb, 0);

const RINGS = 24;
/** Of the sky and the sun together on level ground, lux of this application. */
export function illuminance(d: Daylight): Rgb {
  const sky = new Sky(d);
  const sum = [0, 0, 0];
  const step = Math.PI / 2 / RINGS;
  for (let i = 0; i < RINGS; i++) {
    const theta = (i + 0.5) * step;
    const weight = Math.sin(theta) * Math.cos(theta) * step * ((2 * Math.PI) / RINGS);
    for (let k = 0; k < RINGS; k++) {
      const phi = (2 * Math.PI * (k + 0.5)) / RINGS;
      const l = sky.radiance([Math.sin(theta) * Math.sin(phi), Math.cos(theta), -Math.sin(theta) * Math.cos(phi)]);
      for (let c = 0; c < 3; c++) sum[c]! += l[c]! * weight;
    }
  }
  const slant = Math.max(0, Math.sin(d.elevationDeg * RAD));
  return sunIlluminance(d).map((x, c) => sum[c]! + x * slant) as unknown as Rgb;
}
