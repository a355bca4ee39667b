// Makes a picture's tiles, from a layer of its OpenEXR file or from what a screen is shown of it.
import { closeSync, fsyncSync, openSync, renameSync, rmSync, statfsSync, writeSync } from 'node:fs';
import { dirname } from 'node:path';
import { deflateRawSync } from 'node:zlib';
import { randomUUID } from 'node:crypto';
import sharp from 'sharp';
import { AppError } from '@variscen/contract';
import {
  type PictureSize,
  PyramidBuilder,
  decodeSrgb,
  layersIn,
  levelsOf,
  readExrAbout,
  readExrLines,
  tileIndex,
  tileSize,
  tileToBytes,
} from '@variscen/core/image';
import { withExr } from '../files/exrSource.ts';
import { UNFINISHED } from '../files/keptFile.ts';
import { type TiledAbout, tailOf } from '../files/tiledPicture.ts';
import type { TilesTask } from './tasks.ts';

/** Halves of a picture pack badly: more than the first level costs time and saves a hundredth. */
const LEVEL = 1;
const LEAST_FREE_BYTES = 2 ** 29;
const CHANNELS_SHOWN = 4;

export async function runTiles(t: TilesTask): Promise<{ readonly bytes: number }> {
  if (t.source.kind === 'shown') return tilesOfShown(t.source.path, t.file);
  const { path, layer } = t.source;
  return withExr(path, async (source) => {
    const { channels } = layersIn((await readExrAbout(source)).channels).find((l) => l.name === layer) ?? {};
    if (!channels) throw new AppError('NOT_FOUND', `The picture has no layer “${layer}”.`);
    let writer: TileWriter | undefined;
    try {
      await readExrLines(
        source,
        (name) => channels.includes(name),
        (about) => {
          const to = (writer = new TileWriter(t.file, about, channels.length));
          const line = new Float32Array(about.widthPx * channels.length);
          return (_, lines) => {
            channels.forEach((name, k) => {
              const from = lines.get(name)!;
              for (let x = 0; x < from.length; x++) line[x * channels.length + k] = from[x]!;
            });
            to.builder.addLine(line);
          };
        },
      );
      return writer!.finish();
    } catch (e) {
      writer?.drop();
      throw e;
    }
  });
}

/** As light again by the screen's curve: what was cut or graded stays so. */
async function tilesOfShown(path: string, file: string): Promise<{ readonly bytes: number }> {
  const { data, info } = await sharp(path, { limitInputPixels: false, ignoreIcc: true })
    .removeAlpha()
    .toColourspace('srgb')
    .raw()
    .toBuffer({ resolveWithObject: true });
  const light = Float32Array.from({ length: 256 }, (_, code) => decodeSrgb(code / 255));
  const size = { widthPx: info.width, heightPx: info.height };
  const writer = new TileWriter(file, size, CHANNELS_SHOWN);
  try {
    const line = new Float32Array(info.width * CHANNELS_SHOWN).fill(1);
    for (let y = 0; y < info.height; y++) {
      for (let x = 0; x < info.width; x++)
        for (let k = 0; k < 3; k++)
          line[x * CHANNELS_SHOWN + k] =
            light[data[(y * info.width + x) * info.channels + Math.min(k, info.channels - 1)]!]!;
      writer.builder.addLine(line);
    }
    return writer.finish();
  } catch (e) {
    writer.drop();
    throw e;
  }
}

/** Tiles go to the disk as they are made; the file is there when it is whole. */
class TileWriter {
  readonly builder: PyramidBuilder;
  private readonly temporary: string;
  private readonly to: number;
  private readonly tiles: [number, number][] = [];
  private at = 0;

  constructor(
    private readonly file: string,
    private readonly size: PictureSize,
    private readonly channels: number,
  ) {
    const { bavail, bsize } = statfsSync(dirname(file));
    if (bavail * bsize - mostBytes(size, channels) < LEAST_FREE_BYTES)
      throw new AppError('NO_SPACE', 'There is no space on the disk to open this picture.');
    this.temporary = `${file}-${randomUUID()}${UNFINISHED}`;
    this.to = openSync(this.temporary, 'wx');
    const levels = levelsOf(size);
    this.builder = new PyramidBuilder(size, channels, (tile) => {
      const { widthPx } = tileSize(levels[tile.level]!, tile.x, tile.y);
      const packed = deflateRawSync(tileToBytes(tile.pixels, widthPx, channels), { level: LEVEL });
      this.tiles[tileIndex(levels, tile)] = [this.at, packed.length];
      this.write(packed);
    });
  }
  private write(bytes: Uint8Array): void {
    for (let done = 0; done < bytes.length;) done += writeSync(this.to, bytes, done);
    this.at += bytes.length;
  }
  finish(): { readonly bytes: number } {
    const { widthPx, heightPx } = this.size;
    this.write(tailOf({ widthPx, heightPx, channels: this.channels, tiles: this.tiles } satisfies TiledAbout));
    fsyncSync(this.to);
    closeSync(this.to);
    renameSync(this.temporary, this.file);
    return { bytes: this.at };
  }
  drop(): void {
    closeSync(this.to);
    rmSync(this.temporary, { force: true });
  }
}

/** Of halves at all sizes together, if nothing could be packed. */
const mostBytes = ({ widthPx, heightPx }: PictureSize, channels: number): number =>
  Math.ceil((widthPx * heightPx * channels * 2 * 4) / 3);
