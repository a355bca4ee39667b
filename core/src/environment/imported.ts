// Environment maps that were brought in. A look refers to one by a value that says all that is needed to plan with it:
// its content hash, its size and its name.
import { luminanceAt } from '../image/luminance.ts';
import type { EnvironmentMap } from './environmentMap.ts';

export interface ImportedSky {
  readonly hash: string;
  readonly width: number;
  readonly height: number;
  readonly name: string;
}

/** “map:HASH:2048x1024:evening.hdr” */
export const skyValue = (s: ImportedSky): string => `map:${s.hash}:${s.width}x${s.height}:${s.name}`;
export function parseSky(value: unknown): ImportedSky | undefined {
  const m = typeof value === 'string' ? /^map:([0-9a-f]{64}):(\d{1,5})x(\d{1,5}):(.*)$/s.exec(value) : null;
  return m ? { hash: m[1]!, width: Number(m[2]), height: Number(m[3]), name: m[4]! } : undefined;
}

/** Stored: width × height × 3 floats, little-endian, rows from the top. */
export const packMap = (m: EnvironmentMap): Uint8Array =>
  new Uint8Array(m.data.buffer, m.data.byteOffset, m.data.byteLength);
/** @throws RangeError where the bytes are not a map of that size */
export function unpackMap(bytes: Uint8Array, { width, height, name }: ImportedSky): EnvironmentMap {
  if (bytes.byteLength !== width * height * 12)
    throw new RangeError(`The environment map “${name}” is damaged. Import it again.`);
  return {
    width,
    height,
    data: new Float32Array(
      bytes.byteOffset % 4 ? bytes.slice().buffer : bytes.buffer,
      bytes.byteOffset % 4 ? 0 : bytes.byteOffset,
      width * height * 3,
    ),
  };
}

/** Each texel's distance from its luminance times the saturation, nothing below 0; the map itself at 1. */
export function saturated(m: EnvironmentMap, saturation: number): EnvironmentMap {
  if (saturation === 1) return m;
  const data = new Float32Array(m.data.length);
  for (let i = 0; i < data.length; i += 3) {
    const y = luminanceAt(m.data, i);
    for (let k = 0; k < 3; k++) data[i + k] = Math.max(0, y + (m.data[i + k]! - y) * saturation);
  }
  return { ...m, data };
}

/**
 * A smaller map with the same light: each texel is the mean of those it covers, by their share. No change where it is
 * not larger.
 */
export function smallerMap(m: EnvironmentMap, maxHeight: number): EnvironmentMap {
  if (m.height <= maxHeight) return m;
  const height = maxHeight;
  const width = Math.max(1, Math.round((m.width * maxHeight) / m.height));
  const data = new Float32Array(width * height * 3);
  const across = Array.from({ length: width }, (_, x) => shares(x, width, m.width));
  for (let y = 0; y < height; y++) {
    const down = shares(y, height, m.height);
    for (let x = 0; x < width; x++) {
      const to = (y * width + x) * 3;
      for (const [sy, wy] of down)
        for (const [sx, wx] of across[x]!) {
          const from = (sy * m.width + sx) * 3;
          const w = wy * wx;
          data[to]! += m.data[from]! * w;
          data[to + 1]! += m.data[from + 1]! * w;
          data[to + 2]! += m.data[from + 2]! * w;
        }
    }
  }
  return { width, height, data };
}
function shares(i: number, n: number, source: number): [number, number][] {
  const from = (i * source) / n;
  const to = ((i + 1) * source) / n;
  const out: [number, number][] = [];
  for (let s = Math.floor(from); s < to - 1e-9; s++)
    out.push([s, (Math.min(to, s + 1) - Math.max(from, s)) / (to - from)]);
  return out;
}
