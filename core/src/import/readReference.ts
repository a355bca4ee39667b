// OpenEXR pictures of others that are held against rendered ones: with all their layers where they are packed as ours
// are and have Rec. 709's primaries, else their picture alone.
import { type ExrSource, readExrLayers, writeExr } from '../image/index.ts';
import { ImportError } from '../scene/index.ts';
import { convert, convertedRemark, toRec709 } from './exrColours.ts';
import { type ExrPart, exrParts } from './exrParts.ts';
import { readExr } from './readExr.ts';

/** A side of 16,384 pixels each way. */
export const MOST_REFERENCE_PIXELS = 2 ** 28;
/** None, ZIPS and ZIP, as core/image/exr reads. */
const PACKED_AS_OURS: ReadonlySet<number> = new Set([0, 2, 3]);

export interface ReferenceExr {
  /** A file that core/image/exr reads. */
  readonly bytes: Uint8Array;
  readonly widthPx: number;
  readonly heightPx: number;
  /** What of the file is not there. */
  readonly remarks: readonly string[];
}

/** @param inflate unpacks zlib's format @throws ImportError by the name of the file */
export async function readReference(
  fileName: string,
  bytes: Uint8Array,
  inflate: ExrSource['inflate'],
): Promise<ReferenceExr> {
  const parts = exrParts(bytes);
  const [part] = parts ?? [];
  const asOurs = part && isPackedAsOurs(part) ? part : undefined;
  const isWhole = asOurs && hasColours(asOurs.channels) && !toRec709(asOurs.primaries);
  if (isWhole) return { bytes, widthPx: asOurs.width, heightPx: asOurs.height, remarks: [] };
  const picture = asOurs ? await pickedFrom(fileName, bytes, asOurs, inflate) : decoded(fileName, bytes);
  const { width, height, rgba } = picture;
  const channels = ['R', 'G', 'B', 'A'].map((name, offset) => {
    return { name, type: 'float', data: rgba, offset, stride: 4 } as const;
  });
  const others = (parts ?? []).flatMap((p) => p.channels).filter((c) => !picture.shown.includes(c));
  const shown = picture.layer ? `its layer “${picture.layer}”` : 'the picture';
  const left = others.length ? [`Of “${fileName}” only ${shown} is shown, not ${listed(others)}.`] : [];
  return {
    bytes: writeExr({ width, height, channels, compression: 'none' }),
    widthPx: width,
    heightPx: height,
    remarks: [...picture.remarks, ...left],
  };
}

const isPackedAsOurs = ({ isPlain, compression, width, height }: ExrPart): boolean =>
  isPlain && PACKED_AS_OURS.has(compression) && width > 0 && height > 0 && width * height <= MOST_REFERENCE_PIXELS;

const hasColours = (channels: readonly string[]): boolean => ['R', 'G', 'B'].every((c) => channels.includes(c));

/** A picture of a file; rows from the top. */
interface Picture {
  readonly width: number;
  readonly height: number;
  readonly rgba: Float32Array;
  /** Channels that it is made of. */
  readonly shown: readonly string[];
  /** Empty: the file's own picture. */
  readonly layer: string;
  readonly remarks: readonly string[];
}

function decoded(fileName: string, bytes: Uint8Array): Picture {
  const { width, height, data, remarks } = readExr(fileName, bytes, MOST_REFERENCE_PIXELS);
  return { width, height, rgba: fromTop(data, width), shown: ['R', 'G', 'B', 'A', 'Y'], layer: '', remarks };
}

/** By its colours, else by what looks most like a picture. */
async function pickedFrom(
  fileName: string,
  bytes: Uint8Array,
  part: ExrPart,
  inflate: ExrSource['inflate'],
): Promise<Picture> {
  const { layer, channels: wanted, isColour } = pictureLayer(part.channels);
  const read = (from: number, n: number) => Promise.resolve(bytes.subarray(from, from + n));
  const { widthPx, heightPx, channels } = await readExrLayers(
    { read, inflate },
    (c) => wanted.includes(c),
    Infinity,
  ).catch(() => {
    throw new ImportError('UNREADABLE', `“${fileName}” is damaged: its pixels cannot be unpacked. Save it again.`);
  });
  const rgba = new Float32Array(widthPx * heightPx * 4).fill(1);
  wanted.forEach((name, k) => channels.get(name)!.forEach((x, i) => (rgba[i * 4 + k] = x)));
  // one channel is grey
  if (wanted.length === 1) for (let i = 0; i < rgba.length; i += 4) rgba.fill(rgba[i]!, i + 1, i + 3);
  const matrix = isColour ? toRec709(part.primaries) : undefined;
  if (matrix) convert(rgba, 4, matrix);
  const remarks = matrix ? [convertedRemark(fileName)] : [];
  return { width: widthPx, height: heightPx, rgba, shown: wanted, layer, remarks };
}

const TRIPLES = [
  { letters: ['R', 'G', 'B'], isColour: true },
  { letters: ['r', 'g', 'b'], isColour: true },
  { letters: ['X', 'Y', 'Z'], isColour: false },
  { letters: ['x', 'y', 'z'], isColour: false },
];
/**
 * The file's colours, with coverage where there is one; else its first layer of three channels; else its first channel.
 */
function pictureLayer(channels: readonly string[]): { layer: string; channels: string[]; isColour: boolean } {
  if (hasColours(channels))
    return { layer: '', channels: ['R', 'G', 'B', 'A'].filter((c) => channels.includes(c)), isColour: true };
  for (const { letters, isColour } of TRIPLES)
    for (const first of channels.filter((c) => c.endsWith(`.${letters[0]!}`))) {
      const layer = first.slice(0, -2);
      const own = letters.map((l) => `${layer}.${l}`);
      if (own.every((c) => channels.includes(c))) return { layer, channels: own, isColour };
    }
  const [first] = channels as readonly [string, ...string[]];
  return { layer: first, channels: [first], isColour: false };
}

const NAMED = 3;
const listed = (channels: readonly string[]): string =>
  channels.length > NAMED
    ? `${channels.slice(0, NAMED).join(', ')} and ${channels.length - NAMED} more channels`
    : channels.join(', ');

/** The reader begins at the bottom. */
function fromTop(rgba: Float32Array, width: number): Float32Array {
  const line = width * 4;
  const out = new Float32Array(rgba.length);
  for (let from = rgba.length - line, to = 0; from >= 0; from -= line, to += line)
    out.set(rgba.subarray(from, from + line), to);
  return out;
}
