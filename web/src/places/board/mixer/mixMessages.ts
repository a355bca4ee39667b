// What the thread that mixes a picture's light is told, and answers.
import type { Grade, Lut } from '@variscen/core/image';
import type { Rgb } from '@variscen/core/scene';

export type ToMixer =
  | { readonly kind: 'picture'; readonly bytes: ArrayBuffer; readonly grade: Grade; readonly lut: Lut | undefined }
  | { readonly kind: 'mix'; readonly shares: readonly Rgb[] };
export interface FromMixer {
  /** r, g, b, alpha a pixel, as it is shown. */
  readonly pixels: Uint8ClampedArray<ArrayBuffer>;
}
