// What belongs to a camera and never changes its pictures: how it is worked with.
import type { FrameRange } from './frameRanges.ts';
import type { PlateMatch } from './matchCamera.ts';

export const GUIDES = ['thirds', 'centre', 'safe', 'diagonals'] as const;
export type Guide = (typeof GUIDES)[number];
export const PLATE_FITS = ['fit', 'fill', 'stretch'] as const;

export interface CameraHandling {
  /** Cannot be moved, by navigating or by number. */
  readonly locked: boolean;
  /** The frame keeps its shape when one side is changed. */
  readonly aspectLocked: boolean;
  readonly notes: string;
  readonly guides: readonly Guide[];
  /**
   * Frames of an animated scene that this camera renders, each a picture; null: one, at the frame that it stands at.
   */
  readonly frames: readonly FrameRange[] | null;
  /** A picture over or behind the view to match against, by content hash. */
  readonly plate: {
    readonly hash: string;
    readonly name: string;
    readonly widthPx: number;
    readonly heightPx: number;
    readonly fit: (typeof PLATE_FITS)[number];
    /** 0…1 */
    readonly opacity: number;
    /** How the camera was found from it. */
    readonly match?: PlateMatch | undefined;
  } | null;
}
export const PLAIN_HANDLING: CameraHandling = {
  locked: false,
  aspectLocked: true,
  notes: '',
  guides: ['thirds'],
  frames: null,
  plate: null,
};
/** Of cameras that come with a scene: somebody placed them with care. */
export const PLACED_HANDLING: CameraHandling = { ...PLAIN_HANDLING, locked: true };
