// Tables by which the kernel picks environment directions in proportion to their light.
import { luminanceAt } from '@variscen/core/image';
import type { EngineEnvironment } from './scene.ts';

export interface EnvironmentTables {
  /** Cumulative share of rows, ends at 1. */
  readonly marginal: Float32Array;
  /** Cumulative share of texels within each row, each row ends at 1. */
  readonly conditional: Float32Array;
  /** Density over the unit square. */
  readonly pdf: Float32Array;
}

/** Of small maps that are still in use, by their data: the same sky lights one picture after another. */
const KNOWN = new WeakMap<Float32Array, EnvironmentTables>();
const SMALL_TEXELS = 2 ** 18;
export function environmentTables(map: EngineEnvironment): EnvironmentTables {
  const known = KNOWN.get(map.data);
  if (known) return known;
  const tables = tablesOf(map);
  if (map.width * map.height <= SMALL_TEXELS) KNOWN.set(map.data, tables);
  return tables;
}

/**
 * Shares follow luminance × solid angle, averaged over each texel's neighbours since lookups interpolate, plus 1 % of
 * the mean so that no direction that gives light has density 0.
 */
function tablesOf({ width, height, data }: EngineEnvironment): EnvironmentTables {
  const luminance = new Float64Array(width * height);
  for (let i = 0; i < luminance.length; i++) luminance[i] = luminanceAt(data, i * 3);
  const mean = luminance.reduce((a, b) => a + b, 0) / luminance.length;
  const weight = new Float64Array(width * height);
  for (let y = 0; y < height; y++) {
    const sine = Math.sin((Math.PI * (y + 0.5)) / height);
    for (let x = 0; x < width; x++) {
      let sum = 0;
      for (let dy = -1; dy <= 1; dy++)
        for (let dx = -1; dx <= 1; dx++) {
          const yy = Math.min(height - 1, Math.max(0, y + dy));
          sum += luminance[yy * width + ((x + dx + width) % width)]!;
        }
      weight[y * width + x] = (sum / 9 + mean * 0.01 + 1e-12) * sine;
    }
  }
  const marginal = new Float32Array(height);
  const conditional = new Float32Array(width * height);
  const pdf = new Float32Array(width * height);
  const rows = new Float64Array(height);
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) rows[y]! += weight[y * width + x]!;
  const total = rows.reduce((a, b) => a + b, 0);
  let above = 0;
  for (let y = 0; y < height; y++) {
    above += rows[y]!;
    marginal[y] = above / total;
    let left = 0;
    for (let x = 0; x < width; x++) {
      left += weight[y * width + x]!;
      conditional[y * width + x] = left / rows[y]!;
      pdf[y * width + x] = (weight[y * width + x]! / total) * width * height;
    }
    conditional[y * width + width - 1] = 1;
  }
  marginal[height - 1] = 1;
  return { marginal, conditional, pdf };
}
