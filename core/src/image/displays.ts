// What shown pictures are written for besides screens of sRGB. Pictures have Rec. 709's primaries, so each of these can
// show all that is in them: codes differ, colours do not.
import { decodeSrgb, encodeSrgb } from './grade.ts';
import { apply } from './matrices.ts';
import { DISPLAY_P3, type Primaries, REC709, between } from './primaries.ts';

export const DISPLAYS = ['srgb', 'display-p3', 'rec709'] as const;
export type Display = (typeof DISPLAYS)[number];
/** Of a video monitor in a dim room (Rec. ITU-R BT.1886, black at 0). */
export const VIDEO_GAMMA = 2.4;

/** How a display turns codes into light. */
export interface DisplaySpace {
  readonly primaries: Primaries;
  readonly curve: 'srgb' | 'gamma';
}
export const DISPLAY_SPACES: Readonly<Record<Display, DisplaySpace>> = {
  srgb: { primaries: REC709, curve: 'srgb' },
  'display-p3': { primaries: DISPLAY_P3, curve: 'srgb' },
  rec709: { primaries: REC709, curve: 'gamma' },
};

type Codes = Float64Array | number[];
/**
 * Turns sRGB codes of a pixel (0 … 1) in place into those that show the same on the display. Absent: they are those.
 */
export function codesOn(display: Display): ((codes: Codes) => void) | undefined {
  const { primaries, curve } = DISPLAY_SPACES[display];
  if (display === 'srgb') return undefined;
  const encode = curve === 'srgb' ? encodeSrgb : (x: number) => x ** (1 / VIDEO_GAMMA);
  const matrix = primaries === REC709 ? undefined : between(REC709, primaries);
  return (codes) => {
    let [r, g, b] = [decodeSrgb(codes[0]!), decodeSrgb(codes[1]!), decodeSrgb(codes[2]!)];
    if (matrix) [r, g, b] = apply(matrix, [r, g, b]);
    codes[0] = encode(within(r));
    codes[1] = encode(within(g));
    codes[2] = encode(within(b));
  };
}
/** Rounding alone leaves the range. */
const within = (x: number): number => Math.min(1, Math.max(0, x));

/** Whether each channel is shown by itself. */
export const keepsChannels = (display: Display): boolean => DISPLAY_SPACES[display].primaries === REC709;
