// Whether an object is loaded for a camera, and why.

/** Keeping comes first, in this order. */
export const KEEP_REASONS = [
  'hidden',
  'gives-light',
  'pinned',
  'not-culled',
  'simplified',
  'in-part',
  'in-frame',
] as const;
/** Why something that is shown is left out: by whom or which rule, the first that says so. */
export const LEAVE_REASONS = ['by-hand', 'evidence', 'off-frame', 'outside-planes', 'farther', 'smaller'] as const;
export type LeaveReason = (typeof LEAVE_REASONS)[number];
export type VerdictReason = (typeof KEEP_REASONS)[number] | LeaveReason;

export interface Verdict {
  /** Index of the node. */
  readonly node: number;
  /** Hidden objects are not kept either. */
  readonly keep: boolean;
  readonly reason: VerdictReason;
}
export const isLeftOut = (v: Verdict): boolean => !v.keep && v.reason !== 'hidden';
export const isInPart = (v: Verdict): boolean => v.reason === 'in-part';
export const isSimplified = (v: Verdict): boolean => v.reason === 'simplified';

/** What a person is told of objects that are left out. */
export const LOST_WITH_DROPPED =
  'Objects that are left out also lose their shadow, their reflection and their bounced light in these pictures. What that costs at most is measured while rendering.';
