// Frames of an animated scene that a camera renders, as people write them: “1-40, 60, 100-200 by 5”.

/** From one frame to another, both taken where the step meets them; 0 ≤ first ≤ last. */
export interface FrameRange {
  readonly first: number;
  readonly last: number;
  /** 1 or more. */
  readonly step: number;
}

export const LAST_FRAME = 1_000_000;
export const MOST_STEP = 1000;
/** Of one camera. */
export const MOST_FRAMES = 10_000;
const MOST_RANGES = 100;

/** Ascending, each once. */
export function framesIn(ranges: readonly FrameRange[]): number[] {
  const frames = new Set<number>();
  for (const { first, last, step } of ranges) for (let f = first; f <= last; f += step) frames.add(f);
  return [...frames].sort((a, b) => a - b);
}
/** What a camera renders of a look: its frames, or one picture (null), at the frame that it stands at. */
export const picturesAt = (ranges: readonly FrameRange[] | null): readonly (number | null)[] =>
  ranges ? framesIn(ranges) : [null];

/** As one writes it. */
export const sayRanges = (ranges: readonly FrameRange[]): string =>
  ranges
    .map(({ first, last, step }) => {
      if (first === last) return `${first}`;
      return step === 1 ? `${first}-${last}` : `${first}-${last} by ${step}`;
    })
    .join(', ');

/** Frames as ranges, as few as the steps between neighbours give. @param frames ascending, each once */
export function rangesOf(frames: readonly number[]): FrameRange[] {
  const out: FrameRange[] = [];
  for (let i = 0; i < frames.length;) {
    const first = frames[i]!;
    const step = (frames[i + 1] ?? first + 1) - first;
    let end = i;
    while (frames[end + 1] === frames[end]! + step) end++;
    // two that are apart are two frames, not a range
    if (end - i < 2 && step > 1) end = i;
    out.push({ first, last: frames[end]!, step: end > i ? step : 1 });
    i = end + 1;
  }
  return out;
}
export const sayFrames = (frames: readonly number[]): string => sayRanges(rangesOf(frames));

/** @returns ranges, or in a sentence what is wrong with the text */
export function readRanges(text: string): FrameRange[] | string {
  const parts = text
    .split(',')
    .map((p) => p.trim())
    .filter((p) => p !== '');
  if (!parts.length) return 'Write frames, for example 1-40, 60 or 100-200 by 5.';
  if (parts.length > MOST_RANGES) return `Write no more than ${MOST_RANGES} ranges.`;
  const ranges: FrameRange[] = [];
  for (const part of parts) {
    const found = /^(\d{1,9})(?:\s*[-–]\s*(\d{1,9})(?:\s+by\s+(\d{1,9}))?)?$/i.exec(part);
    if (!found) return `“${part}” is no range of frames. Write for example 1-40, 60 or 100-200 by 5.`;
    const first = Number(found[1]);
    const last = Number(found[2] ?? first);
    const step = Number(found[3] ?? 1);
    if (last < first) return `“${part}” ends before it begins.`;
    if (last > LAST_FRAME) return `“${part}” goes past the last frame that there can be, ${LAST_FRAME}.`;
    if (step < 1 || step > MOST_STEP) return `“${part}” has a step outside 1 to ${MOST_STEP}.`;
    ranges.push({ first, last, step });
  }
  return faultOfRanges(ranges) ?? ranges;
}
/** Why a camera cannot have these, or undefined. */
export function faultOfRanges(ranges: readonly FrameRange[]): string | undefined {
  if (!ranges.length || ranges.length > MOST_RANGES)
    return `A camera has between 1 and ${MOST_RANGES} ranges of frames.`;
  if (ranges.some((r) => r.first > r.last)) return 'The first frame must not come after the last.';
  // counted before they are listed: a range of a million is refused without making it
  const atMost = ranges.reduce((n, r) => n + Math.floor((r.last - r.first) / r.step) + 1, 0);
  if (atMost > MOST_FRAMES) return `These are ${atMost} frames, and a camera has ${MOST_FRAMES} at most.`;
  return undefined;
}
