// The pixels of an OpenEXR file: blocks of lines, each packed by itself, so that they can be packed side by side.
// Format: openexr.com, "OpenEXR File Layout"; the ZIP filter sets even bytes before odd ones and stores differences.
import { halfOfBits } from '../half.ts';
import { type ExrChannel, type ExrImage, inFileOrder } from './exrImage.ts';

/** Lines of a block. */
const linesOf = ({ compression = 'zip' }: ExrImage): number => (compression === 'zip' ? 16 : 1);
/** Bytes before a block's data: its first line and its size. */
export const BLOCK_HEAD_BYTES = 8;

/** Packs bytes as zlib does (RFC 1950). */
export type Deflate = (bytes: Uint8Array) => Uint8Array;

export const exrBlockCount = (image: ExrImage): number => Math.ceil(image.height / linesOf(image));

/** The values of a block as the file holds them before it is packed: line after line, in each the channels. */
export function exrScanLines(image: ExrImage, block: number): Uint8Array {
  const channels = inFileOrder(image.channels);
  const firstRow = block * linesOf(image);
  const endRow = Math.min(image.height, firstRow + linesOf(image));
  const pixelBytes = channels.reduce((sum, c) => sum + (c.type === 'half' ? 2 : 4), 0);
  const words = new Uint16Array((pixelBytes * image.width * (endRow - firstRow)) / 2);
  let at = 0;
  for (let row = firstRow; row < endRow; row++) {
    for (const channel of channels) {
      const put = channel.type === 'half' ? putHalves : putFloats;
      at = put(words, at, channel, row, image.width);
    }
  }
  return new Uint8Array(words.buffer);
}

/** All blocks of a picture, for a picture that is small enough to be in memory twice. */
export function scanLinesOf(image: ExrImage): Uint8Array[] {
  return Array.from({ length: exrBlockCount(image) }, (_, block) => exrScanLines(image, block));
}

// Values are of two bytes or four, the lower ones first, as they are in memory: no machine that this runs on has them the
// other way round. They are taken bit for bit: an id of Cryptomatte may be a number that arithmetic would change.
const bitsOf = ({ data }: ExrChannel): Uint32Array => new Uint32Array(data.buffer, data.byteOffset, data.length);

function putHalves(words: Uint16Array, at: number, channel: ExrChannel, row: number, width: number): number {
  const { stride = 1, offset = 0 } = channel;
  const bits = bitsOf(channel);
  let from = offset + row * width * stride;
  for (let x = 0; x < width; x++) {
    words[at + x] = halfOfBits(bits[from]!);
    from += stride;
  }
  return at + width;
}

function putFloats(words: Uint16Array, at: number, channel: ExrChannel, row: number, width: number): number {
  const { stride = 1, offset = 0 } = channel;
  const bits = bitsOf(channel);
  let from = offset + row * width * stride;
  for (let x = 0; x < width; x++) {
    const value = bits[from]!;
    words[at + 2 * x] = value;
    words[at + 2 * x + 1] = value >>> 16;
    from += stride;
  }
  return at + width * 2;
}

/**
 * A block's data as it lies in the file. Blocks that do not shrink are stored as they are, which readers know by their
 * size.
 */
export function packExrBlock(scanLines: Uint8Array, deflate: Deflate): Uint8Array {
  const packed = deflate(filtered(scanLines));
  return packed.length < scanLines.length ? packed : scanLines;
}

/** Even bytes before odd ones, of each the difference to the one before and 128, modulo 256. */
function filtered(given: Uint8Array): Uint8Array {
  const raw = given.byteOffset % 2 ? given.slice() : given;
  const out = new Uint8Array(raw.length);
  const words = new Uint16Array(raw.buffer, raw.byteOffset, raw.length >> 1);
  const half = (raw.length + 1) >> 1;
  let even = 128; // the first stays as it is
  let odd = 0;
  for (let i = 0; i < words.length; i++) {
    const word = words[i]!;
    const low = word & 255;
    const high = word >>> 8;
    out[i] = low - even + 128;
    out[half + i] = high - odd + 128;
    even = low;
    odd = high;
  }
  if (half > words.length) {
    const last = raw[raw.length - 1]!;
    out[half - 1] = last - even + 128;
    even = last;
  }
  // the first of the odd ones follows the last of the even ones
  if (words.length) out[half] = raw[1]! - even + 128;
  return out;
}

export function exrBlockHead(image: ExrImage, block: number, dataBytes: number): Uint8Array {
  const view = new DataView(new ArrayBuffer(BLOCK_HEAD_BYTES));
  view.setUint32(0, (image.within?.top ?? 0) + block * linesOf(image), true);
  view.setUint32(4, dataBytes, true);
  return new Uint8Array(view.buffer);
}
