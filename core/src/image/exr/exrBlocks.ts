// The pixels of an OpenEXR file: blocks of lines, each packed by itself, so that they can be packed side by side.
// Format: openexr.com, "OpenEXR File Layout"; the ZIP filter sets even bytes before odd ones and stores differences.
import { toHalf } from '../half.ts';
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
  const out = new Uint8Array(pixelBytes * image.width * (endRow - firstRow));
  const view = new DataView(out.buffer);
  let at = 0;
  for (let row = firstRow; row < endRow; row++) {
    for (const channel of channels) {
      at =
        channel.type === 'half'
          ? putHalves(view, at, channel, row, image.width)
          : putFloats(view, at, channel, row, image.width);
    }
  }
  return out;
}

/** All blocks of a picture, for a picture that is small enough to be in memory twice. */
export function scanLinesOf(image: ExrImage): Uint8Array[] {
  return Array.from({ length: exrBlockCount(image) }, (_, block) => exrScanLines(image, block));
}

function putHalves(
  view: DataView,
  at: number,
  { data, stride = 1, offset = 0 }: ExrChannel,
  row: number,
  width: number,
): number {
  let from = offset + row * width * stride;
  for (let x = 0; x < width; x++) {
    view.setUint16(at + x * 2, toHalf(data[from]!), true);
    from += stride;
  }
  return at + width * 2;
}

function putFloats(
  view: DataView,
  at: number,
  { data, stride = 1, offset = 0 }: ExrChannel,
  row: number,
  width: number,
): number {
  // bit for bit: an id of Cryptomatte may be a number that arithmetic would change
  const bits = new Uint32Array(data.buffer, data.byteOffset, data.length);
  let from = offset + row * width * stride;
  for (let x = 0; x < width; x++) {
    view.setUint32(at + x * 4, bits[from]!, true);
    from += stride;
  }
  return at + width * 4;
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
function filtered(raw: Uint8Array): Uint8Array {
  const out = new Uint8Array(raw.length);
  const half = (raw.length + 1) >> 1;
  let before = 128; // the first stays as it is
  for (let i = 0; i < half; i++) {
    const byte = raw[2 * i]!;
    out[i] = byte - before + 128;
    before = byte;
  }
  for (let i = 0; half + i < raw.length; i++) {
    const byte = raw[2 * i + 1]!;
    out[half + i] = byte - before + 128;
    before = byte;
  }
  return out;
}

export function exrBlockHead(image: ExrImage, block: number, dataBytes: number): Uint8Array {
  const view = new DataView(new ArrayBuffer(BLOCK_HEAD_BYTES));
  view.setUint32(0, (image.within?.top ?? 0) + block * linesOf(image), true);
  view.setUint32(4, dataBytes, true);
  return new Uint8Array(view.buffer);
}
