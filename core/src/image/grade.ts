// From linear light to what a screen shows. Input: scene-linear Rec.709; output: sRGB codes.
// Order: exposure, contrast about middle grey (0.18), saturation about Rec.709 luminance, highlight rolloff, sRGB transfer (IEC 61966-2-1).

export interface Grade {
  /** Stops. */
  readonly exposureEv: number;
  readonly contrast: number;
  readonly saturation: number;
  /** 0: values above 1 are cut; 1: they are drawn in softly from 0 on. */
  readonly rolloff: number;
}
export const NEUTRAL_GRADE: Grade = { exposureEv: 0, contrast: 1, saturation: 1, rolloff: 0.6 };

const MIDDLE_GREY = 0.18;
export const encodeSrgb = (x: number): number => (x <= 0.0031308 ? 12.92 * x : 1.055 * x ** (1 / 2.4) - 0.055);

/**
 * Highlights above the knee 1 − rolloff·0.7 approach 1 exponentially instead of being cut. Continuous in value and slope at the knee; identity below.
 */
export function rollOff(x: number, rolloff: number): number {
  const knee = 1 - 0.7 * rolloff;
  return x <= knee ? x : knee + (1 - knee) * (1 - Math.exp(-(x - knee) / (1 - knee || 1e-6)));
}

/** One pixel, 0…1 display-linear. */
export function gradePixel(r: number, g: number, b: number, grade: Grade): [number, number, number] {
  const gain = 2 ** grade.exposureEv;
  const c = [r, g, b].map((x) => MIDDLE_GREY * ((Math.max(0, x) * gain) / MIDDLE_GREY) ** grade.contrast);
  const y = 0.2126 * c[0]! + 0.7152 * c[1]! + 0.0722 * c[2]!;
  return c.map((x) => Math.min(1, rollOff(Math.max(0, y + (x - y) * grade.saturation), grade.rolloff))) as [number, number, number];
}

/** Film means (r, g, b, coverage per pixel) to RGB bytes. */
export function toDisplay(film: Float32Array, grade: Grade): Uint8Array {
  const n = film.length / 4, out = new Uint8Array(n * 3);
  for (let i = 0; i < n; i++) {
    const p = gradePixel(film[i * 4]!, film[i * 4 + 1]!, film[i * 4 + 2]!, grade);
    for (let k = 0; k < 3; k++) out[i * 3 + k] = Math.round(encodeSrgb(p[k]!) * 255);
  }
  return out;
}
