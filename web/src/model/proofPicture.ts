// A proof as pixels, and what is missing at one of them. Pure.
import type { Proof } from '@variscen/core/cull';

export type ProofView = 'whole' | 'culled' | 'difference' | 'doubt';
/** No difference. */
const GREY = 128;
/** Darker pixels are judged as if they had this share of the picture's mean. */
const FLOOR_SHARE = 0.05;

/** RGBA. Differences are to the picture's mean light: at a scale of 1 all of that is from grey to white. */
export function proofPixels(p: Proof, view: ProofView, scale: number): Uint8ClampedArray<ArrayBuffer> {
  const pixels = p.widthPx * p.heightPx;
  const out = new Uint8ClampedArray(pixels * 4).fill(255);
  if (view === 'whole' || view === 'culled') {
    const rgb = view === 'whole' ? p.wholeRgb : p.culledRgb;
    for (let i = 0; i < pixels; i++) for (let c = 0; c < 3; c++) out[i * 4 + c] = rgb[i * 3 + c]!;
    return out;
  }
  const unit = p.meanNits > 0 ? scale / p.meanNits : 0;
  for (let i = 0; i < pixels; i++) {
    const value = view === 'difference' ? GREY + p.difference[i]! * unit * (255 - GREY) : p.doubt[i]! * unit * 255;
    out.fill(Math.round(value), i * 4, i * 4 + 3);
  }
  return out;
}

/** What most of a pixel's doubt is by, and how much it is to what the whole scene shows there. */
export function doubtAt(p: Proof, x: number, y: number): { readonly path: string | null; readonly share: number } {
  const i = Math.min(p.heightPx - 1, Math.max(0, y)) * p.widthPx + Math.min(p.widthPx - 1, Math.max(0, x));
  const path = p.leftOut[p.object[i]!] ?? null;
  return { path, share: p.doubt[i]! / Math.max(p.nits[i]!, FLOOR_SHARE * p.meanNits, Number.MIN_VALUE) };
}
