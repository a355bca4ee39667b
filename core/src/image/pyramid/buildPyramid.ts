// Makes tiles of a picture whose lines come one after another: of each level a row of tiles is in memory, never the
// whole.
import { type PictureSize, type PyramidLevel, TILE_PX, levelsOf, tileSize } from './levels.ts';

export interface MadeTile {
  readonly level: number;
  readonly x: number;
  readonly y: number;
  /** Row by row, so many values a pixel as the picture has channels. */
  readonly pixels: Float32Array;
}

export class PyramidBuilder {
  private readonly levels: readonly LevelBuilder[];

  /** @param emit is given every tile once, of several levels by turns */
  constructor(
    size: PictureSize,
    readonly channels: number,
    emit: (tile: MadeTile) => void,
  ) {
    this.levels = levelsOf(size).map((level, i) => new LevelBuilder(level, i, channels, emit));
    this.levels.forEach((level, i) => (level.smaller = this.levels[i + 1]));
  }
  /** @param line from the left; it may be written over afterwards */
  addLine(line: Float32Array): void {
    this.levels[0]!.addLine(line);
  }
}

class LevelBuilder {
  smaller: LevelBuilder | undefined;
  private readonly band: Float32Array;
  private readonly halved: Float32Array;
  private done = 0;

  constructor(
    private readonly size: PyramidLevel,
    private readonly level: number,
    private readonly channels: number,
    private readonly emit: (tile: MadeTile) => void,
  ) {
    this.band = new Float32Array(size.widthPx * TILE_PX * channels);
    this.halved = new Float32Array(Math.ceil(size.widthPx / 2) * channels);
  }

  addLine(line: Float32Array): void {
    const length = this.size.widthPx * this.channels;
    const inBand = this.done % TILE_PX;
    this.band.set(line.subarray(0, length), inBand * length);
    this.done++;
    const isLast = this.done === this.size.heightPx;
    if (this.smaller && (this.done % 2 === 0 || isLast)) this.smaller.addLine(this.halvedLine(inBand));
    if (this.done % TILE_PX === 0 || isLast) this.emitTiles();
  }

  /** Means of squares of the line and the one above it; an odd last line stands for itself. */
  private halvedLine(inBand: number): Float32Array {
    const { band, channels, halved, size } = this;
    const length = size.widthPx * channels;
    const below = inBand * length;
    const above = inBand % 2 === 1 ? below - length : below;
    for (let x = 0, to = 0; x < size.widthPx; x += 2) {
      const left = x * channels;
      const right = x + 1 < size.widthPx ? left + channels : left;
      for (let k = 0; k < channels; k++, to++)
        halved[to] =
          0.25 *
          (band[above + left + k]! + band[above + right + k]! + band[below + left + k]! + band[below + right + k]!);
    }
    return halved;
  }

  private emitTiles(): void {
    const y = Math.ceil(this.done / TILE_PX) - 1;
    const length = this.size.widthPx * this.channels;
    for (let x = 0; x < this.size.columns; x++) {
      const { widthPx, heightPx } = tileSize(this.size, x, y);
      const pixels = new Float32Array(widthPx * heightPx * this.channels);
      for (let row = 0; row < heightPx; row++) {
        const from = row * length + x * TILE_PX * this.channels;
        pixels.set(this.band.subarray(from, from + widthPx * this.channels), row * widthPx * this.channels);
      }
      this.emit({ level: this.level, x, y, pixels });
    }
  }
}
