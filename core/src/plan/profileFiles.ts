// Which file formats a profile asks for.

export interface ProfileFiles {
  /** The picture as traced, in linear light; null: none. */
  readonly exr: ExrFile | null;
  /** Bits a channel; null: none. */
  readonly png: 8 | 16 | null;
  /** 16 bits as a screen shows it, or linear light as floats; null: none. */
  readonly tiff: '16' | 'float' | null;
  /** Quality, 1 … 100; null: none. */
  readonly jpeg: number | null;
  readonly webp: number | null;
  /**
   * PNG, TIFF of 16 bits, JPEG and WebP with the look's grade; without, linear light is only encoded for the screen.
   */
  readonly graded: boolean;
}
export interface ExrFile {
  /** Of the picture and of layers of light. */
  readonly type: 'half' | 'float';
  readonly compression: 'zip' | 'zips' | 'none';
  /** A file of its own for each AOV, instead of layers of one file. */
  readonly aovsApart: boolean;
  /** One for each cell, where cells that differ by their grade alone would otherwise share it. */
  readonly perCell: boolean;
}
export const PLAIN_FILES: ProfileFiles = {
  exr: { type: 'half', compression: 'zip', aovsApart: false, perCell: false },
  png: 8,
  tiff: null,
  jpeg: null,
  webp: null,
  graded: true,
};
