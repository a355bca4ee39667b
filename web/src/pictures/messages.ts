// Between the page and the threads that make pictures ready to be looked at.
import type { Grade, LayerKind, TileAt } from '@variscen/core/image';
import type { DifferenceAsked, DifferenceFound, RegionStatistics, ValueRange } from '@variscen/core/review';

/** A layer of a finished picture. */
export interface OpenedLayer {
  readonly renderId: string;
  readonly layer: string;
  readonly widthPx: number;
  readonly heightPx: number;
  readonly channels: number;
  /** What is looked at are its files, and not what is left of them. */
  readonly isLinear: boolean;
}
export type ShowingAsked =
  { readonly kind: 'graded'; readonly grade: Grade } | { readonly kind: 'ranged'; readonly range: ValueRange };
/** In pixels of the whole picture. */
export interface Region {
  readonly left: number;
  readonly top: number;
  readonly widthPx: number;
  readonly heightPx: number;
}
export type PictureAsk =
  | { readonly kind: 'tile'; readonly of: OpenedLayer; readonly at: TileAt; readonly how: ShowingAsked }
  | {
      readonly kind: 'difference';
      readonly of: OpenedLayer;
      readonly at: TileAt;
      readonly to: OpenedLayer;
      readonly asked: DifferenceAsked;
      readonly shown: readonly [ShowingAsked, ShowingAsked];
    }
  | { readonly kind: 'range'; readonly of: OpenedLayer; readonly layerKind: LayerKind }
  /** Of a pixel of the whole picture. */
  | {
      readonly kind: 'values';
      readonly of: OpenedLayer;
      readonly x: number;
      readonly y: number;
      readonly how: ShowingAsked;
    }
  | { readonly kind: 'region'; readonly of: OpenedLayer; readonly region: Region; readonly how: ShowingAsked };
export interface PixelValues {
  /** As they were rendered. */
  readonly values: readonly number[];
  /** As a screen shows them, 0 … 255. */
  readonly codes: readonly [number, number, number];
}
export interface PictureAnswers {
  readonly tile: { readonly bitmap: ImageBitmap };
  readonly difference: {
    readonly bitmap: ImageBitmap;
    readonly found: Omit<DifferenceFound, 'pixels'>;
    readonly pixels: number;
  };
  /** null: it is shown by a grade. */
  readonly range: ValueRange | null;
  readonly values: PixelValues;
  readonly region: RegionStatistics;
}
export interface ToPictures {
  readonly id: number;
  readonly ask: PictureAsk;
}
export type FromPictures =
  | { readonly id: number; readonly answer: PictureAnswers[PictureAsk['kind']] }
  | { readonly id: number; readonly failed: string };
