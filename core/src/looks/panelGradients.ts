// Gradients for panels, as a soft box has them: pictures that are made, and used as any other.
import { encodeSrgb } from '../image/index.ts';

export interface PanelGradient {
  readonly id: string;
  /** What its picture is called. */
  readonly name: string;
  /**
   * How bright a place is, 0 … 1 of the panel's brightest.
   * @param u from the left as seen from where the panel shines, 0 … 1 @param v from the top, 0 … 1
   */
  readonly at: (u: number, v: number) => number;
}

/** From 0 to 1 without a corner at either end. */
const eased = (x: number): number => (1 - Math.cos(Math.PI * Math.min(1, Math.max(0, x)))) / 2;
/** Bright in the middle; at the middle of each side and beyond as bright as is said. */
const fromMiddle = (edge: number) => (u: number, v: number) =>
  edge + (1 - edge) * eased(1 - 2 * Math.hypot(u - 0.5, v - 0.5));
const from = (share: (u: number, v: number) => number) => (u: number, v: number) => eased(1 - share(u, v));

export const PANEL_GRADIENTS: readonly PanelGradient[] = [
  { id: 'gradient-middle-half', name: 'Bright middle, edge at half', at: fromMiddle(0.5) },
  { id: 'gradient-middle', name: 'Bright middle, edge dark', at: fromMiddle(0) },
  { id: 'gradient-top', name: 'Bright top', at: from((_, v) => v) },
  { id: 'gradient-bottom', name: 'Bright bottom', at: from((_, v) => 1 - v) },
  { id: 'gradient-left', name: 'Bright left', at: from((u) => u) },
  { id: 'gradient-right', name: 'Bright right', at: from((u) => 1 - u) },
];

/** Codes of sRGB, red, green, blue and coverage a pixel, rows from the top; grey and opaque. */
export function gradientPixels({ at }: PanelGradient, sidePx: number): Uint8ClampedArray<ArrayBuffer> {
  const out = new Uint8ClampedArray(sidePx * sidePx * 4).fill(255);
  for (let y = 0; y < sidePx; y++)
    for (let x = 0; x < sidePx; x++) {
      const code = Math.round(255 * encodeSrgb(at((x + 0.5) / sidePx, (y + 0.5) / sidePx)));
      out.fill(code, (y * sidePx + x) * 4, (y * sidePx + x) * 4 + 3);
    }
  return out;
}
