// OpenEXR pictures: the first part that has colours.
import { FloatType } from 'three';
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js';
import { ImportError } from '../scene/index.ts';
import { type ExrPart, exrParts, isDwa } from './exrParts.ts';
import { convert, convertedRemark, toRec709 } from './exrColours.ts';
import type { ReadPicture } from './readHdr.ts';

export const isExr = (b: Uint8Array): boolean => b[0] === 0x76 && b[1] === 0x2f && b[2] === 0x31 && b[3] === 0x01;

const hasColors = (p: ExrPart): boolean =>
  ['R', 'G', 'B'].every((c) => p.channels.includes(c)) || p.channels.includes('Y');

/** @throws ImportError by the name of the file */
export function readExr(fileName: string, bytes: Uint8Array, mostPixels: number): ReadPicture {
  const parts = exrParts(bytes);
  if (!parts) throw new ImportError('UNREADABLE', `“${fileName}” is cut short or damaged. Copy or save it again.`);
  const at = parts.findIndex((p) => !p.isDeep && hasColors(p));
  const part = parts[at];
  if (!part)
    throw new ImportError(
      'UNREADABLE',
      parts.some((p) => p.isDeep)
        ? `“${fileName}” holds deep pixels, which are not read. Save it flattened, with RGB channels.`
        : `“${fileName}” has no channels R, G and B. Save it again, with RGB channels.`,
    );
  if (!(part.width > 0 && part.height > 0) || part.width * part.height > mostPixels)
    throw new ImportError(
      'TOO_LARGE',
      `“${fileName}” has ${part.width} × ${part.height} pixels, which is more than is read. Save it smaller.`,
    );
  // the reader mixes up layers that are compressed together this way, and reads no depth from it
  const others = part.channels.filter((c) => !['R', 'G', 'B', 'A', 'Y'].includes(c));
  if (isDwa(part) && others.length)
    throw new ImportError(
      'UNREADABLE',
      `“${fileName}” is compressed with DWA and holds ${others.slice(0, 3).join(', ')} beside its colours, which is not read. Save it with ZIP or PIZ, or with RGB channels alone.`,
    );
  const { width, height, data } = decode(fileName, bytes, at);
  const matrix = toRec709(part.primaries);
  if (matrix) convert(data, 4, matrix);
  return { width, height, data, fromTop: false, remarks: matrix ? [convertedRemark(fileName)] : [] };
}

function decode(fileName: string, bytes: Uint8Array, part: number) {
  const loader = new EXRLoader().setDataType(FloatType);
  loader.part = part;
  try {
    return loader.parse(bytes.slice().buffer) as unknown as { width: number; height: number; data: Float32Array };
  } catch {
    // the reader's own words are about its tables
    throw new ImportError(
      'UNREADABLE',
      `“${fileName}” could not be read: its pixels are damaged or compressed in a way that is not known. Save it again, with RGB channels and ZIP or PIZ.`,
    );
  }
}
