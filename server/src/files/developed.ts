// A finished picture as a screen shows it, from its linear light by a grade: line by line, so that a picture of any
// size takes no more memory than its codes.
import sharp, { type Sharp } from 'sharp';
import {
  type Display,
  type ExrSource,
  type Grade,
  type Lut,
  type ImportedLut,
  type PictureSize,
  bytesOf,
  codesOn,
  glowOf,
  gradingOf,
  halfValues,
  hasLens,
  isByChannel,
  keepsChannels,
  lensOf,
  levelsOf,
  readExrAbout,
  readExrHalves,
  readExrLayers,
  readExrLines,
  unpackLut,
} from '@variscen/core/image';
import { withExr } from './exrSource.ts';
import { AssetStore } from './store.ts';

/**
 * Where a picture's colours are: light in an OpenEXR, which is graded, or what a screen shows, which stays as it is.
 */
export type PictureSource =
  | { readonly kind: 'exr'; readonly path: string; readonly grade: Grade }
  | { readonly kind: 'shown'; readonly path: string };
export interface Wanted {
  readonly bits: 8 | 16;
  /** What shows it; absent: a screen of sRGB. */
  readonly display?: Display;
  /** A smaller picture; null: as large as it is. */
  readonly widthPx: number | null;
  /** With it, of just this size, smaller or larger. */
  readonly heightPx?: number;
}
const COLOURS = ['R', 'G', 'B'];
const NOT_YET = -1;

/**
 * Of 16 bits, and for other displays than sRGB, it has no profile yet: withProfile puts it into the file.
 * @param assets folder of content, which has the grade's LUT
 */
export async function developed(source: PictureSource, wanted: Wanted, assets: string): Promise<Sharp> {
  const { bits, display = 'srgb', widthPx, heightPx } = wanted;
  const image =
    source.kind === 'shown' ? await asShown(source.path, bits, display) : await fromLight(source, wanted, assets);
  const sized = resized(image, widthPx, heightPx);
  if (bits === 16) return sized.toColourspace('rgb16');
  return display === 'srgb' ? sized.withIccProfile('srgb') : sized;
}
function resized(image: Sharp, width: number | null, height: number | undefined): Sharp {
  if (width === null) return image;
  if (height !== undefined) return image.resize({ width, height, fit: 'fill' });
  return image.resize({ width, withoutEnlargement: true });
}
async function asShown(path: string, bits: 8 | 16, display: Display): Promise<Sharp> {
  const image = sharp(path, { limitInputPixels: false, ignoreIcc: true }).removeAlpha();
  const shown = bits === 16 ? image.toColourspace('rgb16') : image.toColourspace('srgb');
  const turn = codesOn(display);
  return turn ? turned(shown, bits, turn) : shown;
}
/** Every pixel's codes, turned in their place. */
async function turned(image: Sharp, bits: 8 | 16, turn: (codes: number[]) => void): Promise<Sharp> {
  const { data, info } = await image
    .raw({ depth: bits === 16 ? 'ushort' : 'uchar' })
    .toBuffer({ resolveWithObject: true });
  const codes = bits === 16 ? new Uint16Array(data.buffer, data.byteOffset, data.length / 2) : data;
  const most = bits === 16 ? 65_535 : 255;
  const pixel = [0, 0, 0];
  for (let i = 0; i < codes.length; i += 3) {
    for (let k = 0; k < 3; k++) pixel[k] = codes[i + k]! / most;
    turn(pixel);
    for (let k = 0; k < 3; k++) codes[i + k] = Math.round(pixel[k]! * most);
  }
  return sharp(codes, { raw: { width: info.width, height: info.height, channels: 3 }, limitInputPixels: false });
}

async function fromLight(
  { path, grade }: Extract<PictureSource, { kind: 'exr' }>,
  { bits, widthPx, display = 'srgb' }: Wanted,
  assets: string,
): Promise<Sharp> {
  const shown = { grade, bits, display };
  return withExr(path, async (source) => {
    const size = await readExrAbout(source);
    // so much smaller that whole squares of pixels become one is made of light
    const by = widthPx === null ? 1 : Math.max(1, Math.floor(size.widthPx / (widthPx * 2)));
    if (by === 1) return (await atFullSize(source, [shown], assets))[0]!;
    const small = { widthPx: Math.ceil(size.widthPx / by), heightPx: Math.ceil(size.heightPx / by) };
    const codes = await codesFor(source, shown, small, assets);
    const { channels } = await readExrLayers(source, (name) => COLOURS.includes(name), codes.widthPx);
    const planes = COLOURS.map((c) => channels.get(c)!);
    for (let row = 0; row < codes.heightPx; row++)
      codes.addLine(
        row,
        planes.map((p) => p.subarray(row * codes.widthPx, (row + 1) * codes.widthPx)),
      );
    return codes.image();
  });
}

/** How light is shown. */
export interface Shown {
  readonly grade: Grade;
  readonly bits: 8 | 16;
  readonly display?: Display;
}
/** One light shown in several ways at full size, with 8 bits for screens of sRGB. The light is read once. */
export async function developedTogether(path: string, shown: readonly Shown[], assets: string): Promise<Sharp[]> {
  const images = await withExr(path, (source) => atFullSize(source, shown, assets));
  return images.map((image, i) =>
    shown[i]!.bits === 16 ? image.toColourspace('rgb16') : image.withIccProfile('srgb'),
  );
}

async function atFullSize(source: ExrSource, shown: readonly Shown[], assets: string): Promise<Sharp[]> {
  const size = await readExrAbout(source);
  const areHalves = COLOURS.every((c) => size.halves.has(c));
  const codes: Codes[] = [];
  for (const s of shown) codes.push(await codesFor(source, s, size, assets));
  const isLookedUp = ({ grade, display = 'srgb' }: Shown) =>
    areHalves && isByChannel(grade) && keepsChannels(display) && !hasLens(grade);
  const lookedUp = codes.filter((_, i) => isLookedUp(shown[i]!));
  const workedOut = codes.filter((_, i) => !isLookedUp(shown[i]!));
  if (lookedUp.length) await readExrHalves(source, COLOURS, () => eachOf(lookedUp.map((c) => c.ofHalves())));
  if (workedOut.length)
    await readExrLines(
      source,
      (name) => COLOURS.includes(name),
      () => (row, lines) => {
        const colours = COLOURS.map((c) => lines.get(c)!);
        for (const c of workedOut) c.addLine(row, colours);
      },
    );
  return codes.map((c) => c.image());
}
type TakeColours = (row: number, colours: readonly Uint16Array[]) => void;
const eachOf =
  (takes: readonly TakeColours[]): TakeColours =>
  (row, colours) => {
    for (const take of takes) take(row, colours);
  };

async function codesFor(
  source: ExrSource,
  { grade, bits, display = 'srgb' }: Shown,
  size: PictureSize,
  assets: string,
): Promise<Codes> {
  const lut = grade.lut && grade.lutStrength > 0 ? await lutOf(grade.lut, assets) : undefined;
  const lens = await lensFor(source, grade, size);
  const turn = codesOn(display);
  if (bits === 8 && !turn) return new Codes(size, bits, bytesOf(grade, lut), lens);
  return new Codes(size, bits, roundedTo(bits === 8 ? 255 : 65_535, gradingOf(grade, lut), turn), lens);
}
type Grading = ReturnType<typeof gradingOf>;
/** Codes of a pixel at `from` of a film to whole numbers at `to`. */
type PutCodes = (film: ArrayLike<number>, from: number, codes: Uint8Array | Uint16Array, to: number) => void;
function roundedTo(most: number, grading: Grading, turn: ReturnType<typeof codesOn>): PutCodes {
  const code = [0, 0, 0];
  return (film, from, codes, to) => {
    grading(film, from, code);
    turn?.(code);
    for (let k = 0; k < 3; k++) codes[to + k] = Math.round(code[k]! * most);
  };
}
async function lutOf(lut: ImportedLut, assets: string): Promise<Lut> {
  return unpackLut(await new AssetStore(assets).get(lut.hash), lut);
}

/** Where there is bloom, the picture is read once more, small. */
async function lensFor(source: ExrSource, grade: Grade, size: PictureSize): Promise<Lens | undefined> {
  if (!hasLens(grade)) return undefined;
  if (grade.bloom === 0) return lensOf(grade, size, undefined);
  const whole = await readExrAbout(source);
  const { widthPx } = levelsOf(whole).at(-1)!;
  const small = await readExrLayers(source, (name) => COLOURS.includes(name), widthPx);
  const values = new Float32Array(small.widthPx * small.heightPx * 3);
  COLOURS.forEach((c, k) => small.channels.get(c)!.forEach((x, i) => (values[i * 3 + k] = x)));
  const { heightPx } = small;
  return lensOf(grade, size, glowOf({ widthPx: small.widthPx, heightPx, channels: 3, values }, grade.bloomSize));
}

type Lens = ReturnType<typeof lensOf>;
class Codes {
  readonly widthPx: number;
  readonly heightPx: number;
  private readonly data: Uint8Array | Uint16Array;
  /** Of single precision, as a film is: a grade rounds alike then. */
  private readonly light = new Float32Array(3);

  constructor(
    { widthPx, heightPx }: PictureSize,
    bits: 8 | 16,
    private readonly put: PutCodes,
    private readonly lens: Lens | undefined,
  ) {
    this.widthPx = widthPx;
    this.heightPx = heightPx;
    const values = widthPx * heightPx * 3;
    this.data = bits === 8 ? new Uint8Array(values) : new Uint16Array(values);
  }
  addLine(row: number, colours: readonly Float32Array[]): void {
    const { light, data, lens } = this;
    const v = (row + 0.5) / this.heightPx;
    let to = row * this.widthPx * 3;
    for (let x = 0; x < this.widthPx; x++, to += 3) {
      for (let k = 0; k < 3; k++) light[k] = colours[k]![x]!;
      lens?.(light, 0, (x + 0.5) / this.widthPx, v);
      this.put(light, 0, data, to);
    }
  }
  /**
   * Of halves there are 65,536: what each of them becomes is worked out once, by the same arithmetic. Powers are most
   * of what a grade takes.
   */
  ofHalves(): TakeColours {
    const { data, widthPx } = this;
    const values = halfValues();
    const grey = [0, 0, 0];
    const found = data.slice(0, 3);
    const Table = data instanceof Uint8Array ? Int16Array : Int32Array; // small ones stay in the cache
    const tables = COLOURS.map(() => new Table(2 ** 16).fill(NOT_YET));
    // of light that is as much in each channel: all three learn what it becomes there
    const codeOf = (channel: number, half: number): number => {
      grey.fill(values[half]!);
      this.put(grey, 0, found, 0);
      for (let k = 0; k < 3; k++) tables[k]![half] = found[k]!;
      return found[channel]!;
    };
    return (row, colours) => {
      for (let k = 0; k < 3; k++) {
        const halves = colours[k]!;
        const table = tables[k]!;
        for (let x = 0, to = row * widthPx * 3 + k; x < widthPx; x++, to += 3) {
          const half = halves[x]!;
          const code = table[half]!;
          data[to] = code === NOT_YET ? codeOf(k, half) : code;
        }
      }
    };
  }
  image(): Sharp {
    return sharp(this.data, {
      raw: { width: this.widthPx, height: this.heightPx, channels: 3 },
      limitInputPixels: false,
    });
  }
}
