// A picture under what was rendered.
import { decodeSrgb } from '../image/grade.ts';

export interface PlatePicture {
  readonly width: number;
  readonly height: number;
  /** r, g, b, a of 8 or 16 bits as they are shown, row by row from the top. */
  readonly data: Uint8Array | Uint16Array;
}
interface Part {
  readonly left: number;
  readonly top: number;
  readonly widthPx: number;
  readonly heightPx: number;
}

/**
 * The film with a plate under it: seen where nothing is, by the share that is not covered. It fills the frame, whatever
 * its own shape; its light is averaged over what falls into a pixel, and blended between its own pixels where those are
 * larger.
 * @param film r, g, b, coverage of a part of the frame
 * @param open how much of the plate is seen, r, g, b a pixel; absent: what is not covered
 */
export function underlaid(
  film: Float32Array,
  part: Part,
  frame: { readonly widthPx: number; readonly heightPx: number },
  plate: PlatePicture,
  strength: number,
  open?: Float32Array,
): Float32Array {
  const out = film.slice();
  const scale = Math.min(plate.width / frame.widthPx, plate.height / frame.heightPx);
  const across = tapsAlong(part.left, part.widthPx, frame.widthPx, plate.width, scale);
  const down = tapsAlong(part.top, part.heightPx, frame.heightPx, plate.height, scale);
  const rows = new PlateRows(plate, across);
  const light = new Float32Array(part.widthPx * 3);
  for (const [y, { from, weights }] of down.entries()) {
    light.fill(0);
    weights.forEach((weight, k) => {
      const row = rows.at(from + k);
      for (let i = 0; i < light.length; i++) light[i]! += weight * row[i]!;
    });
    rows.forgetBefore(from);
    for (let x = 0; x < part.widthPx; x++) {
      const pixel = y * part.widthPx + x;
      const bare = 1 - film[pixel * 4 + 3]!;
      for (let c = 0; c < 3; c++) {
        const seen = open ? open[pixel * 3 + c]! : bare;
        if (seen > 0) out[pixel * 4 + c]! += seen * strength * light[x * 3 + c]!;
      }
    }
  }
  return out;
}

/** What of a plate's pixels falls into one of the frame along an axis: shares from one of them on, 1 together. */
interface Taps {
  readonly from: number;
  readonly weights: readonly number[];
}
/**
 * A tent as wide as two pixels of the frame or of the plate, whichever is larger.
 * @param scale pixels of the plate to one of the frame
 */
function tapsAlong(first: number, count: number, frame: number, plate: number, scale: number): Taps[] {
  const begin = (plate - frame * scale) / 2;
  const reach = Math.max(1, scale);
  return Array.from({ length: count }, (_, i) => {
    const middle = begin + (first + i + 0.5) * scale - 0.5;
    const from = Math.max(0, Math.floor(middle - reach) + 1);
    const to = Math.min(plate - 1, Math.ceil(middle + reach) - 1);
    // at an edge a tent may reach no pixel's middle: then it is the edge itself
    if (to < from) return { from: Math.min(plate - 1, Math.max(0, Math.round(middle))), weights: [1] };
    const weights = Array.from({ length: to - from + 1 }, (_, k) => 1 - Math.abs(from + k - middle) / reach);
    const sum = weights.reduce((a, b) => a + b, 0);
    return { from, weights: weights.map((w) => w / sum) };
  });
}

/** Rows of a plate as wide as the part of the frame, as light; each is made once. */
class PlateRows {
  private readonly made = new Map<number, Float32Array>();
  private readonly linear: Float32Array;
  constructor(
    private readonly plate: PlatePicture,
    private readonly across: readonly Taps[],
  ) {
    const top = plate.data instanceof Uint16Array ? 65535 : 255;
    this.linear = Float32Array.from({ length: top + 1 }, (_, code) => decodeSrgb(code / top));
  }
  at(y: number): Float32Array {
    const known = this.made.get(y);
    if (known) return known;
    const { data, width } = this.plate;
    const row = new Float32Array(this.across.length * 3);
    this.across.forEach(({ from, weights }, x) => {
      weights.forEach((weight, k) => {
        const at = (y * width + from + k) * 4;
        for (let c = 0; c < 3; c++) row[x * 3 + c]! += weight * this.linear[data[at + c]!]!;
      });
    });
    this.made.set(y, row);
    return row;
  }
  forgetBefore(y: number): void {
    for (const made of this.made.keys()) if (made < y) this.made.delete(made);
  }
}
