// OpenEXR pictures of others that are held against rendered ones: with all their layers where they are packed as ours are,
// else their picture alone.
import { writeExr } from '../image/exr/writeExr.ts';
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

/** @throws ImportError by the name of the file */
export function readReference(fileName: string, bytes: Uint8Array): ReferenceExr {
  const parts = exrParts(bytes);
  const [part] = parts ?? [];
  if (part && isAsOurs(part) && part.width * part.height <= MOST_REFERENCE_PIXELS)
    return { bytes, widthPx: part.width, heightPx: part.height, remarks: [] };
  const { width, height, data } = readExr(fileName, bytes, MOST_REFERENCE_PIXELS);
  const rows = fromTop(data, width);
  const channels = ['R', 'G', 'B', 'A'].map((name, offset) => {
    return { name, type: 'float', data: rows, offset, stride: 4 } as const;
  });
  const others = (parts ?? []).flatMap((p) => p.channels).filter((c) => !['R', 'G', 'B', 'A', 'Y'].includes(c));
  return {
    bytes: writeExr({ width, height, channels, compression: 'none' }),
    widthPx: width,
    heightPx: height,
    remarks: others.length ? [`Of “${fileName}” only the picture is shown, not ${listed(others)}.`] : [],
  };
}

const isAsOurs = ({ isPlain, compression, channels, width, height }: ExrPart): boolean =>
  isPlain &&
  PACKED_AS_OURS.has(compression) &&
  ['R', 'G', 'B'].every((c) => channels.includes(c)) &&
  width > 0 &&
  height > 0;

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
