// What is in a region of a picture: its mean, how often each brightness occurs, and where.
import { gradingOf, luminanceAt } from '../image/index.ts';
import type { LayerPixels, Showing } from './show.ts';

export const HISTOGRAM_BINS = 64;
export const WAVEFORM_COLUMNS = 96;
export const WAVEFORM_ROWS = 64;
export interface RegionStatistics {
  readonly pixels: number;
  /** Of each channel, in its unit. */
  readonly mean: readonly number[];
  readonly least: readonly number[];
  readonly most: readonly number[];
  /** Share of pixels by code of the screen, from dark to bright: of red, green, blue. Empty of what is no light. */
  readonly histogram: readonly (readonly number[])[];
  /** By column from the left, then by brightness from dark: share of the column's pixels. Empty of what is no light. */
  readonly waveform: readonly number[];
}

export function statisticsOf(pixels: LayerPixels, how: Showing): RegionStatistics {
  const { channels, values, widthPx, heightPx } = pixels;
  const n = widthPx * heightPx;
  const sums = new Array<number>(channels).fill(0);
  const least = new Array<number>(channels).fill(Infinity);
  const most = new Array<number>(channels).fill(-Infinity);
  for (let i = 0; i < n; i++)
    for (let k = 0; k < channels; k++) {
      const v = values[i * channels + k]!;
      sums[k]! += v;
      if (v < least[k]!) least[k] = v;
      if (v > most[k]!) most[k] = v;
    }
  const shown = how.kind === 'graded' && channels >= 3 ? shownStatistics(pixels, how) : { histogram: [], waveform: [] };
  return { pixels: n, mean: sums.map((s) => s / n), least, most, ...shown };
}

function shownStatistics(
  { channels, values, widthPx, heightPx }: LayerPixels,
  { grade, lut }: Extract<Showing, { kind: 'graded' }>,
): Pick<RegionStatistics, 'histogram' | 'waveform'> {
  const graded = gradingOf(grade, lut);
  const histogram = [0, 1, 2].map(() => new Array<number>(HISTOGRAM_BINS).fill(0));
  const columns = Math.min(WAVEFORM_COLUMNS, widthPx);
  const waveform = new Array<number>(columns * WAVEFORM_ROWS).fill(0);
  const ofColumn = new Array<number>(columns).fill(0);
  const codes = [0, 0, 0];
  const bin = (code: number, bins: number) => Math.min(bins - 1, Math.floor(code * bins));
  for (let i = 0; i < widthPx * heightPx; i++) {
    graded(values, i * channels, codes);
    for (let k = 0; k < 3; k++) histogram[k]![bin(codes[k]!, HISTOGRAM_BINS)]!++;
    const column = Math.floor(((i % widthPx) * columns) / widthPx);
    waveform[column * WAVEFORM_ROWS + bin(luminanceAt(codes, 0), WAVEFORM_ROWS)]!++;
    ofColumn[column]!++;
  }
  const n = widthPx * heightPx;
  return {
    histogram: histogram.map((h) => h.map((x) => x / n)),
    waveform: waveform.map((x, i) => x / ofColumn[Math.floor(i / WAVEFORM_ROWS)]!),
  };
}
