// A thread that makes pictures ready to be looked at: tiles by a grade or a range, differences, values, patches.
import { type ImportedLut, type Lut, TILE_PX, levelsOf, unpackLut } from '@variscen/core/image';
import { type Showing, differenceOf, fittingRange, shownPixels, statisticsOf } from '@variscen/core/review';
import { pathOf } from '@variscen/contract';
import type {
  FromPictures,
  OpenedLayer,
  PictureAnswers,
  PictureAsk,
  PixelValues,
  ShowingAsked,
  ToPictures,
} from './messages.ts';
import { patchOf, sameFrame, seenPatch } from './patches.ts';
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
      return { bitmap: await bitmapOf(shownPixels(pixels, how), pixels.widthPx) };
    }
    case 'difference':
      return difference(ask);
    case 'range': {
      const smallest = levelsOf(ask.of).length - 1;
      return fittingRange(ask.layerKind, await tiles.tile(ask.of, { level: smallest, x: 0, y: 0 }));
    }
    case 'values':
      return valuesAt(ask.of, ask.x, ask.y, await showing(ask.how));
    case 'patch':
      return statisticsOf(await seenPatch(tiles, ask.of, ask.patch), await showing(ask.how));
  }
}

async function difference({ of, at, to, asked, shown }: Extract<PictureAsk, { kind: 'difference' }>) {
  const a = await tiles.tile(of, at);
  const patch = { left: at.x * TILE_PX, top: at.y * TILE_PX, widthPx: a.widthPx, heightPx: a.heightPx };
  const b = await sameFrame(tiles, to, of, at.level, patch);
  const { pixels, ...found } = differenceOf(a, b, asked, [await graded(shown[0]), await graded(shown[1])]);
  return { bitmap: await bitmapOf(pixels, a.widthPx), found, pixels: a.widthPx * a.heightPx };
}

async function valuesAt(of: OpenedLayer, x: number, y: number, how: Showing): Promise<PixelValues> {
  const pixel = await patchOf(tiles, of, 0, { left: x, top: y, widthPx: 1, heightPx: 1 });
  const [r, g, b] = shownPixels(pixel, how);
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
