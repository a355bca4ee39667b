// Between the page and the worker that renders live.
import type { Grade } from '@variscen/core/image';
import type { Change } from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';

export interface Wish {
  readonly id: number;
  readonly sceneHash: string;
  /** Of everything but the grade, as a snapshot. */
  readonly changes: readonly Change[];
  readonly grade: Grade;
  readonly camera: CameraSettings;
  readonly widthPx: number;
  readonly heightPx: number;
  readonly threads: number;
  /** Most samples; absent: as many as sharpen the picture while one looks. */
  readonly samples?: number;
  /** Also which objects the camera sees, once the picture is whole. */
  readonly evidence?: boolean;
}
export type FromLive =
  | { readonly kind: 'loading'; readonly id: number; readonly done: number; readonly of: number }
  | {
      readonly kind: 'picture';
      readonly id: number;
      readonly widthPx: number;
      readonly heightPx: number;
      readonly rgba: Uint8ClampedArray<ArrayBuffer>;
      readonly samples: number;
      readonly seconds: number;
      readonly memoryBytes: number;
      readonly threads: number;
      readonly finished: boolean;
    }
  /** Paths of the objects that a ray of the camera met first. */
  | { readonly kind: 'seen'; readonly id: number; readonly paths: readonly string[] }
  | { readonly kind: 'failed'; readonly id: number; readonly message: string };
