// Textures made by code: value noise in layers, no downloads.
import { encode } from 'fast-png';

export type Paint = (u: number, v: number) => readonly [number, number, number];

/** Repeatable number in [0, 1) from integers. */
const cell = (x: number, y: number, seed: number): number => {
  let h = Math.imul(x, 374761393) ^ Math.imul(y, 668265263) ^ Math.imul(seed, 2246822519);
  h = Math.imul(h ^ (h >>> 13), 1274126177);
  return ((h ^ (h >>> 16)) >>> 0) / 2 ** 32;
};

/** Smooth noise that repeats every `period` cells of the unit square. */
export function noise(u: number, v: number, period: number, seed: number): number {
  const x = u * period;
  const y = v * period;
  const i = Math.floor(x);
  const j = Math.floor(y);
  const f = x - i;
  const g = y - j;
  const s = f * f * (3 - 2 * f);
  const t = g * g * (3 - 2 * g);
  const m = (k: number) => ((k % period) + period) % period;
  const at = (a: number, b: number) => cell(m(i + a), m(j + b), seed);
  return (at(0, 0) * (1 - s) + at(1, 0) * s) * (1 - t) + (at(0, 1) * (1 - s) + at(1, 1) * s) * t;
}
export const layers = (u: number, v: number, period: number, seed: number): number =>
  [1, 2, 4, 8].reduce((n, k) => n + noise(u, v, period * k, seed + k) / (2 * k), 0) / 0.9375;

const mix = (
  a: readonly [number, number, number],
  b: readonly [number, number, number],
  t: number,
): [number, number, number] => [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t, a[2] + (b[2] - a[2]) * t];

/** Colours are sRGB 0…255 (roughness maps: G = roughness, B = metalness). */
export const PAINTS: Readonly<Record<string, Paint>> = {
  wood: (u, v) => {
    const plank = Math.floor(v * 4);
    const g = noise(u, v * 24, 4, plank + 3) * 0.6 + noise(u * 2, v * 60, 8, 9) * 0.4;
    const edge = Math.abs(((v * 4) % 1) - 0.5) > 0.485 ? 0.35 : 1;
    return mix([88, 56, 34], [156, 107, 66], g * (0.75 + 0.25 * cell(plank, 0, 5))).map((x) => x * edge) as [
      number,
      number,
      number,
    ];
  },
  plaster: (u, v) => mix([128, 112, 94], [186, 170, 146], layers(u, v, 6, 21)),
  stone: (u, v) => mix([62, 60, 60], [118, 113, 108], layers(u, v, 5, 33)),
  stripes: (u, v) => {
    const red = Math.floor(u * 14) % 2 === 0;
    const w = layers(u, v, 24, 44) * 18;
    return red ? [150 - w, 38 - w * 0.4, 32 - w * 0.4] : [226 - w, 210 - w, 178 - w];
  },
  puddles: (u, v) => {
    const wet = Math.min(1, Math.max(0, (layers(u, v, 4, 55) - 0.42) * 7));
    return [0, 20 + 150 * wet, 0];
  },
  paper: (u, v) => {
    const rib = Math.abs(((v * 14) % 1) - 0.5) * 2;
    const w = 0.86 + 0.14 * layers(u, v, 8, 66);
    const k = (rib > 0.86 ? 0.55 : 1) * w * (0.72 + 0.28 * Math.sin(Math.PI * v));
    return [255 * k, 214 * k, 150 * k];
  },
  weave: (u, v) => {
    const k = ((Math.floor(u * 40) + Math.floor(v * 40)) % 2 ? 0.8 : 1) * (0.8 + 0.2 * layers(u, v, 8, 77));
    return [168 * k, 140 * k, 98 * k];
  },
};

export function paintPng(paint: Paint, size: number): Uint8Array {
  const data = new Uint8Array(size * size * 3);
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++)
      data.set(
        paint((x + 0.5) / size, (y + 0.5) / size).map((c) => Math.max(0, Math.min(255, Math.round(c)))),
        (y * size + x) * 3,
      );
  return encode({ width: size, height: size, data, channels: 3, depth: 8 });
}
