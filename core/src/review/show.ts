// How a layer's numbers become what a screen shows: light by a grade, all else within a range that fits it.
import { type Grade, bytesOf, type LayerKind, type Lut } from '../image/index.ts';

/** Row by row, so many values a pixel as it has channels. */
export interface LayerPixels {
  readonly widthPx: number;
  readonly heightPx: number;
  readonly channels: number;
  readonly values: Float32Array;
}
export interface ValueRange {
  readonly from: number;
  readonly to: number;
}
export type Showing =
  | { readonly kind: 'graded'; readonly grade: Grade; readonly lut: Lut | undefined }
  /** Black at the one end, white at the other; colours where there are several channels. */
  | { readonly kind: 'ranged'; readonly range: ValueRange };

/** Nothing is there: what is written as infinite comes as the largest half. */
const NOTHING_FROM = 65_000;

type Put = (pixel: number, out: Uint8ClampedArray, to: number) => void;
/** r, g, b, 255 a pixel. */
export function shownPixels(pixels: LayerPixels, how: Showing): Uint8ClampedArray<ArrayBuffer> {
  const out = new Uint8ClampedArray(pixels.widthPx * pixels.heightPx * 4);
  const put = how.kind === 'graded' ? gradedCodes(pixels, how) : rangedCodes(pixels, how.range);
  for (let i = 0, q = 0; q < out.length; i++, q += 4) {
    put(i, out, q);
    out[q + 3] = 255;
  }
  return out;
}

function gradedCodes({ channels, values }: LayerPixels, { grade, lut }: Extract<Showing, { kind: 'graded' }>): Put {
  const shown = bytesOf(grade, lut);
  if (channels >= 3) return (i, out, to) => shown(values, i * channels, out, to);
  const grey = [0, 0, 0];
  return (i, out, to) => {
    grey.fill(values[i * channels]!);
    shown(grey, 0, out, to);
  };
}

function rangedCodes({ channels, values }: LayerPixels, { from, to: end }: ValueRange): Put {
  const by = 1 / (end === from ? 1 : end - from);
  const code = (v: number) => (v >= NOTHING_FROM ? 0 : Math.min(1, Math.max(0, (v - from) * by)));
  return (i, out, to) => {
    for (let k = 0; k < 3; k++)
      out[to + k] =
        255 * (channels === 1 || k < channels ? code(values[i * channels + (channels === 1 ? 0 : k)]!) : 0.5);
  };
}

/** Of each hundred values the two that are farthest out on either side are beyond it. */
const BEYOND = 0.02;
/** A range that fits what is there; null: it is light, which is shown by a grade. @param pixels a small level of it */
export function fittingRange(kind: LayerKind, pixels: LayerPixels): ValueRange | null {
  if (kind === 'light') return null;
  if (kind === 'share') return { from: 0, to: 1 };
  const channels = Math.min(3, pixels.channels);
  const found: number[] = [];
  for (let i = 0; i < pixels.values.length; i += pixels.channels)
    for (let k = 0; k < channels; k++) {
      const v = pixels.values[i + k]!;
      if (Math.abs(v) < NOTHING_FROM) found.push(v);
    }
  if (!found.length) return { from: 0, to: 1 };
  found.sort((a, b) => a - b);
  const at = (share: number) => found[Math.round(share * (found.length - 1))]!;
  if (kind === 'vector') {
    // what points nowhere is grey
    const most = Math.max(Math.abs(at(BEYOND)), Math.abs(at(1 - BEYOND)), 1e-6);
    return { from: -most, to: most };
  }
  // near is bright, as a headlamp shows it
  if (kind === 'distance') return { from: at(1 - BEYOND), to: at(BEYOND) };
  return { from: Math.min(0, at(0)), to: Math.max(at(1 - BEYOND), at(0) + 1e-6) };
}
