// Radiance HDR pictures. "The RADIANCE picture file format": lines of text that end with an empty one, the size, then
// pixels of three mantissas m and an exponent e: (m / 256) · 2^(e − 128), flat or run length encoded by rows.
import { FloatType } from 'three';
import { HDRLoader } from 'three/examples/jsm/loaders/HDRLoader.js';
import { ImportError } from '../scene/index.ts';
import { rgbOfEqualEnergyXyz } from '../image/index.ts';

export interface ReadPicture {
  readonly width: number;
  readonly height: number;
  /** Values a pixel: data.length / pixels. */
  readonly data: Float32Array;
  readonly fromTop: boolean;
  readonly remarks: readonly string[];
}

export const isHdr = (b: Uint8Array): boolean => b[0] === 0x23 && b[1] === 0x3f; // 20000630, “#?”

/** The reader takes a mantissa's share of 255. */
const MANTISSA = 255 / 256;
const LONGEST_HEADER = 65_536;

interface Header {
  readonly lines: readonly string[];
  readonly width: number;
  readonly height: number;
  /** Where the pixels begin. */
  readonly end: number;
}

/** @throws ImportError by the name of the file */
export function readHdr(fileName: string, bytes: Uint8Array, mostPixels: number): ReadPicture {
  const header = headerOf(bytes);
  if (!header)
    throw new ImportError(
      'UNREADABLE',
      `“${fileName}” could not be read: it says no size, or its rows do not run from top left. Save it again.`,
    );
  const { lines, width, height } = header;
  if (!(width > 0 && height > 0) || width * height > mostPixels)
    throw new ImportError(
      'TOO_LARGE',
      `“${fileName}” has ${width} × ${height} pixels, which is more than is read. Save it smaller.`,
    );
  const whole = pixelsAreWhole(bytes.subarray(header.end), width, height);
  if (!whole) throw new ImportError('UNREADABLE', `“${fileName}” is cut short or damaged. Copy or save it again.`);
  const format = lines
    .find((l) => l.startsWith('FORMAT='))
    ?.slice('FORMAT='.length)
    .trim();
  const data = decode(fileName, bytes);
  for (let i = 0; i < data.length; i++) data[i]! *= MANTISSA;
  if (format !== '32-bit_rle_xyze') return { width, height, data, fromTop: true, remarks: [] };
  for (let i = 0; i < data.length; i += 4) {
    const rgb = rgbOfEqualEnergyXyz([data[i]!, data[i + 1]!, data[i + 2]!]);
    for (let c = 0; c < 3; c++) data[i + c] = Math.max(0, rgb[c]!);
  }
  return { width, height, data, fromTop: true, remarks: [`“${fileName}” is in CIE XYZ, and was brought to Rec. 709.`] };
}

function headerOf(bytes: Uint8Array): Header | undefined {
  const text = new TextDecoder('latin1').decode(bytes.subarray(0, LONGEST_HEADER));
  const size = /\n-Y +(\d+) +\+X +(\d+) *\n/.exec(text);
  if (!size) return undefined;
  const end = size.index + size[0].length;
  return { lines: text.slice(0, size.index).split('\n'), height: Number(size[1]), width: Number(size[2]), end };
}

/** Whether every row is there. */
function pixelsAreWhole(b: Uint8Array, width: number, height: number): boolean {
  const isRunLength = width >= 8 && width <= 0x7fff && b[0] === 2 && b[1] === 2 && (b[2]! & 0x80) === 0;
  if (!isRunLength) return b.length >= width * height * 4;
  let at = 0;
  for (let y = 0; y < height; y++) {
    if (b[at] !== 2 || b[at + 1] !== 2 || ((b[at + 2]! << 8) | b[at + 3]!) !== width) return false;
    at += 4;
    for (let done = 0; done < width * 4;) {
      const count = b[at++]!;
      const run = count > 128 ? count - 128 : count;
      if (!run) return false;
      at += count > 128 ? 1 : run;
      done += run;
      if (at > b.length || done > width * 4) return false;
    }
  }
  return true;
}

function decode(fileName: string, bytes: Uint8Array): Float32Array {
  try {
    return (new HDRLoader().setDataType(FloatType).parse(bytes.slice().buffer) as { data: Float32Array }).data;
  } catch (e) {
    const reason = e instanceof Error ? e.message.replace(/^THREE\.\w+: ?/, '') : String(e);
    throw new ImportError('UNREADABLE', `“${fileName}” could not be read: ${reason}. Save it again.`);
  }
}
