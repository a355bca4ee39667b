// Between the page and its engine.
import type { CullPlan, StandIn, Verdict } from '@variscen/core/cull';
import type { Grade } from '@variscen/core/image';
import type { Change } from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import type { MemoryBytes } from '@variscen/engine';

/** live: what somebody looks at; seen: what somebody waits for; small: what fills up by and by. */
export type Urgency = 'live' | 'seen' | 'small';

export interface Wish {
  readonly sceneHash: string;
  /** Of everything but the grade, as a snapshot. */
  readonly changes: readonly Change[];
  readonly grade: Grade;
  readonly camera: CameraSettings;
  readonly widthPx: number;
  readonly heightPx: number;
  /** Most samples; absent: as many as sharpen the picture while one looks. */
  readonly samples?: number;
  /** Also which objects the camera sees, once the picture is whole. */
  readonly evidence?: boolean;
  /** The picture of the wish before is shown, in the lights of this one: rougher ones are not. */
  readonly quiet?: boolean;
}
export interface BallsWish {
  readonly sceneHash: string;
  /** Of materials only. */
  readonly changes: readonly Change[];
  readonly names: readonly string[];
  readonly sizePx: number;
}
export interface DropWish {
  readonly sceneHash: string;
  readonly changes: readonly Change[];
  readonly camera: CameraSettings;
  /** What is dropped, each with all that is in it. */
  readonly nodes: readonly number[];
}
/** What a camera leaves out, and what the rest takes. */
export interface CullWish {
  readonly sceneHash: string;
  readonly changes: readonly Change[];
  readonly camera: CameraSettings;
  /** Paths of objects that people and evidence have named. */
  readonly keep: readonly string[];
  readonly byHand: readonly string[];
  readonly byEvidence: readonly string[];
  /** By hash of the mesh. */
  readonly pieces: CullPlan['pieces']['meshes'];
  /** Meshes that are simplified, by their hash. */
  readonly standIns: Readonly<Record<string, StandIn>>;
}
export type Job =
  | { readonly kind: 'picture'; readonly urgency: Urgency; readonly wish: Wish }
  | { readonly kind: 'balls'; readonly wish: BallsWish }
  | { readonly kind: 'drop'; readonly wish: DropWish }
  | { readonly kind: 'cull'; readonly wish: CullWish };

export type ToEngine =
  | { readonly kind: 'ask'; readonly id: number; readonly job: Job }
  /** The picture of a job in another grade, which costs no trace. */
  | { readonly kind: 'regrade'; readonly id: number; readonly grade: Grade }
  /** The picture of a job in other lights: it costs no trace, where they are kept apart. */
  | { readonly kind: 'relight'; readonly id: number; readonly changes: readonly Change[] }
  | { readonly kind: 'forget'; readonly id: number };

export type Said =
  /** What is shown cannot be changed to the lights that were asked for. */
  | { readonly kind: 'outdated' }
  | { readonly kind: 'loading'; readonly done: number; readonly of: number }
  | {
      readonly kind: 'picture';
      readonly widthPx: number;
      readonly heightPx: number;
      readonly rgba: Uint8ClampedArray<ArrayBuffer>;
      readonly samples: number;
      readonly seconds: number;
      readonly memoryBytes: number;
      readonly threads: number;
      readonly finished: boolean;
    }
  /**
   * Paths of the objects that a ray of the camera met first; of those that no ray of any kind met and that give no
   * light; and how many light paths were followed.
   */
  | {
      readonly kind: 'met';
      readonly seen: readonly string[];
      readonly unmet: readonly string[];
      readonly lightPaths: number;
    }
  | { readonly kind: 'ball'; readonly name: string; readonly rgba: Uint8ClampedArray<ArrayBuffer> }
  /** Metres down for each node; null where nothing lies below. */
  | { readonly kind: 'dropped'; readonly heights: readonly (number | null)[] }
  | { readonly kind: 'culled'; readonly culled: Culled }
  | { readonly kind: 'failed'; readonly message: string };

/** Verdicts of all objects that have a volume, and memory with and without what is left out. */
export interface Culled {
  readonly verdicts: readonly Verdict[];
  readonly bytes: MemoryBytes;
  readonly wholeBytes: MemoryBytes;
}
export interface FromEngine {
  readonly id: number;
  readonly said: Said;
}
