// A project's camera as it is stored.
import type { Matrix } from './vectors.ts';
export interface Crop {
  readonly left: number;
  readonly top: number;
  readonly right: number;
  readonly bottom: number;
}

export interface CameraCull {
  /** Objects wholly farther than this are left out. */
  readonly fartherThanM?: number | undefined;
  /** Objects smaller in the picture than so many pixels across, at the camera's frame size. */
  readonly smallerThanPx?: number | undefined;
  /** Objects wholly in front of the near plane or beyond the far plane. */
  readonly outsidePlanes?: boolean | undefined;
  /** Hash of what a plan names to be left out, in order. */
  readonly leaveOut?: string | undefined;
  /** Hash of what it pins, in order: it counts against rules. */
  readonly keep?: string | undefined;
  /** Hash of which meshes are simplified, and how far. */
  readonly standIns?: string | undefined;
  /** Hash of that plan, as content; in no picture. */
  readonly plan?: string | undefined;
}

export interface CameraSettings {
  /** Camera to world; looks along its −Z. */
  readonly matrix: Matrix;
  readonly projection: 'perspective' | 'orthographic';
  /** Frame size of the finished picture. */
  readonly widthPx: number;
  readonly heightPx: number;
  /** The frame's width on the sensor. */
  readonly sensorWidthMm: number;
  readonly focalLengthMm: number;
  /** Orthographic only: half the frame's height. */
  readonly orthoHalfHeightM: number;
  readonly nearM: number;
  readonly farM: number;
  readonly focusDistanceM: number;
  /** null: everything is sharp. */
  readonly fStop: number | null;
  /**
   * Objects wholly outside the frame by this many per cent of it are left out when culling; null: nothing is culled.
   */
  readonly cullMarginPct: number | null;
  /** What else is left out; absent: nothing. */
  readonly cull?: CameraCull | undefined;
  /** Lens shift: how far the frame's middle is off the axis, in frame widths and heights; right and up are positive. */
  readonly shiftX?: number | undefined;
  readonly shiftY?: number | undefined;
  /** Edges of the aperture; absent: round. */
  readonly blades?: number | undefined;
  /** The part of the frame that is rendered, in per cent of it from the left and from the top; absent: all of it. */
  readonly crop?: Crop | undefined;
  /** Which frame of an animated scene is shown; the first is 0. */
  readonly frame?: number | undefined;
  /** Depths that the depth AOV shows as 0 and 1; absent: the near and far planes. */
  readonly depthRangeM?: { readonly near: number; readonly far: number } | undefined;
  /** Path of a camera of the scene with which it moves. */
  readonly follows?: string | undefined;
}
