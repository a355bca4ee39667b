// A thread that makes pictures ready to be looked at: tiles by a grade or a range, differences, values, regions.
import {
  type Glow,
  type ImportedLut,
  type Lut,
  TILE_PX,
  glowOf,
  hasLens,
  levelsOf,
  throughLens,
  unpackLut,
} from '@variscen/core/image';
import {
  type LayerPixels,
  type RegionStatistics,
  type Showing,
  differenceOf,
  fittingRange,
  shownPixels,
  statisticsOf,
} from '@variscen/core/review';
import { pathOf } from '@variscen/contract';
import type {
  FromPictures,
  OpenedLayer,
  Region,
  PictureAnswers,
  PictureAsk,
  PixelValues,
  ShowingAsked,
  ToPictures,
} from './messages.ts';
import { regionOf, sameFrame, seenRegion } from './regions.ts';
import { TileValues } from './tileValues.ts';

const tiles = new TileValues();
const luts = new Map<string, Promise<Lut>>();

async function showing(asked: ShowingAsked): Promise<Showing> {
  if (asked.kind === 'ranged') return asked;
  const { lut } = asked.grade;
  if (!lut) return { ...asked, lut: undefined };
  let table = luts.get(lut.hash);
  if (!table) {
    table = loadLut(lut);
    luts.set(lut.hash, table);
    table.catch(() => luts.delete(lut.hash));
  }
  return { ...asked, lut: await table };
}
async function loadLut(lut: ImportedLut): Promise<Lut> {
  const answer = await fetch(pathOf('asset', { hash: lut.hash }));
  if (!answer.ok) throw new Error('The LUT of this look is not on the server.');
  return unpackLut(new Uint8Array(await answer.arrayBuffer()), lut);
}
/** A difference is of light that is graded. */
async function graded(asked: ShowingAsked): Promise<Extract<Showing, { kind: 'graded' }>> {
  const how = await showing(asked);
  if (how.kind !== 'graded') throw new Error('Differences are shown of layers that are light.');
  return how;
}

async function answer(ask: PictureAsk): Promise<PictureAnswers[PictureAsk['kind']]> {
  switch (ask.kind) {
    case 'tile': {
      const [pixels, how] = await Promise.all([tiles.tile(ask.of, ask.at), showing(ask.how)]);
      const { level, x, y } = ask.at;
      const seen = await seenThrough(ask.of, level, { left: x * TILE_PX, top: y * TILE_PX }, pixels, how);
      return { bitmap: await bitmapOf(shownPixels(seen, how), pixels.widthPx) };
    }
    case 'difference':
      return difference(ask);
    case 'range': {
      const smallest = levelsOf(ask.of).length - 1;
      return fittingRange(ask.layerKind, await tiles.tile(ask.of, { level: smallest, x: 0, y: 0 }));
    }
    case 'values':
      return valuesAt(ask.of, ask.x, ask.y, await showing(ask.how));
    case 'region':
      return regionStatistics(ask.of, ask.region, await showing(ask.how));
  }
}

async function difference({ of, at, to, asked, shown }: Extract<PictureAsk, { kind: 'difference' }>) {
  const a = await tiles.tile(of, at);
  const region = { left: at.x * TILE_PX, top: at.y * TILE_PX, widthPx: a.widthPx, heightPx: a.heightPx };
  const b = await sameFrame(tiles, to, of, at.level, region);
  const both = [await graded(shown[0]), await graded(shown[1])] as const;
  const through = (whole: OpenedLayer, pixels: LayerPixels, how: Showing) =>
    asked.kind === 'light' ? pixels : seenThrough(whole, at.level, region, pixels, how, of);
  const { pixels, ...found } = differenceOf(await through(of, a, both[0]), await through(to, b, both[1]), asked, both);
  return { bitmap: await bitmapOf(pixels, a.widthPx), found, pixels: a.widthPx * a.heightPx };
}

/** What is in it as it was rendered; how often and where each brightness occurs as it is shown. */
async function regionStatistics(of: OpenedLayer, region: Region, how: Showing): Promise<RegionStatistics> {
  const { level, left, top, pixels } = await seenRegion(tiles, of, region);
  const { mean, least, most } = statisticsOf(pixels, how);
  return { ...statisticsOf(await seenThrough(of, level, { left, top }, pixels, how), how), mean, least, most };
}

/**
 * As they come through the lens of the grade, where it has one.
 * @param framed the picture whose level they are a part of; a picture of another size may be shown in the frame of a
 * first
 */
async function seenThrough(
  of: OpenedLayer,
  level: number,
  { left, top }: { readonly left: number; readonly top: number },
  pixels: LayerPixels,
  how: Showing,
  framed: OpenedLayer = of,
): Promise<LayerPixels> {
  if (how.kind !== 'graded' || !hasLens(how.grade)) return pixels;
  const { widthPx, heightPx } = levelsOf(framed)[level]!;
  const glow = how.grade.bloom > 0 ? await glows.of(of, how.grade.bloomSize) : undefined;
  return throughLens(pixels, { left, top, widthPx, heightPx }, how.grade, glow);
}

/** Of the pictures that were looked at last, their spread light. */
class Glows {
  private readonly kept = new Map<string, Promise<Glow>>();

  of(of: OpenedLayer, bloomSize: number): Promise<Glow> {
    const key = `${of.renderId} ${of.layer} ${of.isLinear} ${bloomSize}`;
    let glow = this.kept.get(key);
    if (!glow) {
      const level = levelsOf(of).length - 1;
      glow = tiles.tile(of, { level, x: 0, y: 0 }).then((small) => glowOf(small, bloomSize));
      glow.catch(() => this.kept.delete(key)); // it is asked for again
      this.kept.set(key, glow);
      const [oldest] = this.kept.keys();
      if (this.kept.size > MOST_GLOWS) this.kept.delete(oldest!);
    }
    return glow;
  }
}
const MOST_GLOWS = 60;
const glows = new Glows();

async function valuesAt(of: OpenedLayer, x: number, y: number, how: Showing): Promise<PixelValues> {
  const pixel = await regionOf(tiles, of, 0, { left: x, top: y, widthPx: 1, heightPx: 1 });
  const [r, g, b] = shownPixels(await seenThrough(of, 0, { left: x, top: y }, pixel, how), how);
  return { values: [...pixel.values], codes: [r!, g!, b!] };
}

const bitmapOf = (pixels: Uint8ClampedArray<ArrayBuffer>, widthPx: number): Promise<ImageBitmap> =>
  createImageBitmap(new ImageData(pixels, widthPx, pixels.length / 4 / widthPx));

self.onmessage = ({ data: { id, ask } }: MessageEvent<ToPictures>) => {
  const post = (m: FromPictures, moved: Transferable[] = []) => (self as unknown as Worker).postMessage(m, moved);
  void answer(ask).then(
    (found) => post({ id, answer: found }, found && 'bitmap' in found ? [found.bitmap] : []),
    (e: unknown) => post({ id, failed: e instanceof Error ? e.message : String(e) }),
  );
};
