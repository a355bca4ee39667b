// The pixels of an OpenEXR file: blocks of lines, each packed by itself, so that they can be packed side by side.
// Format: openexr.com, "OpenEXR File Layout"; the ZIP filter sets even bytes before odd ones and stores differences.
import { halfOfBits } from '../half.ts';
import { type ExrChannel, type ExrImage, inFileOrder } from './exrImage.ts';

/** Lines of a block. */
const linesOf = ({ compression = 'zip' }: ExrImage): number => (compression === 'zip' ? 16 : 1);
/** Bytes before a block's data: its first line and its size. */
export const BLOCK_HEAD_BYTES = 8;

export const exrBlockCount = (image: ExrImage): number => Math.ceil(image.height / linesOf(image));

/** The values of a block as the file holds them where it is not packed: line after line, in each the channels. */
export function exrScanLines(image: ExrImage, block: number): Uint8Array {
  const words = new Uint16Array(wordsOf(image, block));
  let at = 0;
  forEachLine(image, block, (channel, row) => {
    const put = channel.type === 'half' ? putHalves : putFloats;
    at = put(words, at, channel, row, image.width);
  });
  return new Uint8Array(words.buffer);
}

/**
 * The same as zlib is to pack it: even bytes before odd ones, of each the difference to the one before and 128, modulo
 * 256. Made at once, without the lines as they are.
 */
export function exrFiltered(image: ExrImage, block: number): Uint8Array {
  const words = wordsOf(image, block);
  const filter: Filter = { out: new Uint8Array(words * 2), half: words, at: 0, low: 128, high: 0 };
  forEachLine(image, block, (channel, row) => {
    const filterLine = channel.type === 'half' ? filterHalves : filterFloats;
    filterLine(filter, channel, row, image.width);
  });
  const { out, half, low } = filter;
  // the first of the odd ones, which none was before yet, follows the last of the even ones
  if (words > 0) out[half] = out[half]! - low;
  return out;
}

/** As it lies in the file: what does not shrink is stored as it is, which readers know by its size. */
export const exrBlockData = (image: ExrImage, block: number, packed: Uint8Array): Uint8Array =>
  packed.length < wordsOf(image, block) * 2 ? packed : exrScanLines(image, block);

/** How many words of two bytes a block has. */
function wordsOf(image: ExrImage, block: number): number {
  const lines = linesOf(image);
  const rows = Math.min(lines, image.height - block * lines);
  return image.channels.reduce((sum, c) => sum + (c.type === 'half' ? 1 : 2), 0) * image.width * rows;
}
function forEachLine(image: ExrImage, block: number, put: (channel: ExrChannel, row: number) => void): void {
  const channels = inFileOrder(image.channels);
  const firstRow = block * linesOf(image);
  const endRow = Math.min(image.height, firstRow + linesOf(image));
  for (let row = firstRow; row < endRow; row++) for (const channel of channels) put(channel, row);
}

// Values are of two bytes or four, the lower ones first, as they are in memory: no machine that this runs on has them
// the other way round. They are taken bit for bit: an id of Cryptomatte may be a number that arithmetic would change.
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

/** Where the filter of a block stands. */
interface Filter {
  readonly out: Uint8Array;
  /** Where the odd bytes begin. */
  readonly half: number;
  /** Of the next word. */
  at: number;
  /** Bytes of the word before, in their lower eight bits. */
  low: number;
  high: number;
}
function filterHalves(filter: Filter, channel: ExrChannel, row: number, width: number): void {
  const { stride = 1, offset = 0 } = channel;
  const { out, half } = filter;
  const bits = bitsOf(channel);
  let { at, low, high } = filter;
  let from = offset + row * width * stride;
  for (const end = at + width; at < end; at++) {
    const word = halfOfBits(bits[from]!);
    out[at] = word - low + 128;
    out[half + at] = (word >>> 8) - high + 128;
    low = word;
    high = word >>> 8;
    from += stride;
  }
  Object.assign(filter, { at, low, high });
}
function filterFloats(filter: Filter, channel: ExrChannel, row: number, width: number): void {
  const { stride = 1, offset = 0 } = channel;
  const { out, half } = filter;
  const bits = bitsOf(channel);
  let { at, low, high } = filter;
  let from = offset + row * width * stride;
  for (const end = at + width * 2; at < end; at += 2) {
    const value = bits[from]!;
    // their lower eight bits count
    const byte0 = value & 255;
    const byte1 = value >>> 8;
    const byte2 = value >>> 16;
    const byte3 = value >>> 24;
    out[at] = byte0 - low + 128;
    out[half + at] = byte1 - high + 128;
    out[at + 1] = byte2 - byte0 + 128;
    out[half + at + 1] = byte3 - byte1 + 128;
    low = byte2;
    high = byte3;
    from += stride;
  }
  Object.assign(filter, { at, low, high });
}

export function exrBlockHead(image: ExrImage, block: number, dataBytes: number): Uint8Array {
  const view = new DataView(new ArrayBuffer(BLOCK_HEAD_BYTES));
  view.setUint32(0, (image.within?.top ?? 0) + block * linesOf(image), true);
  view.setUint32(4, dataBytes, true);
  return new Uint8Array(view.buffer);
}
