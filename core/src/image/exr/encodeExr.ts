// An OpenEXR file written piece by piece, however large: blocks are packed side by side by whatever the caller has for
// it, and are written in order.
// At most a few blocks are in memory beside the picture.
import { BLOCK_HEAD_BYTES, exrBlockCount, exrBlockData, exrBlockHead, exrFiltered, exrScanLines } from './exrBlocks.ts';
import { exrHeader, exrOffsets } from './exrHeader.ts';
import { type ExrImage, checkExrImage } from './exrImage.ts';

export interface ExrSink {
  /** Packs a block as zlib does (RFC 1950), possibly elsewhere. */
  pack(filtered: Uint8Array): Promise<Uint8Array>;
  /** Writes bytes at a place of the file. Called for one piece after the other. */
  write(bytes: Uint8Array, at: number): Promise<void>;
  /** Blocks that are packed at a time; at least 1. */
  readonly blocksAtOnce: number;
}

async function packed(image: ExrImage, sink: ExrSink, block: number): Promise<Uint8Array> {
  if (image.compression === 'none') return exrScanLines(image, block);
  return exrBlockData(image, block, await sink.pack(exrFiltered(image, block)));
}

/**
 * Writes a picture. Returns the size of the file, bytes. @throws RangeError of channels that do not fit; what the sink
 * throws; the signal's reason
 */
export async function encodeExr(image: ExrImage, sink: ExrSink, signal?: AbortSignal): Promise<number> {
  checkExrImage(image);
  const header = exrHeader(image);
  const blocks = exrBlockCount(image);
  const offsets: number[] = [];
  const packing: Promise<Uint8Array>[] = [];
  let at = header.length + blocks * 8;
  let next = 0;
  try {
    for (let block = 0; block < blocks; block++) {
      signal?.throwIfAborted();
      for (; next < Math.min(blocks, block + sink.blocksAtOnce); next++) packing.push(packed(image, sink, next));
      const data = await packing.shift()!;
      offsets.push(at);
      await sink.write(exrBlockHead(image, block, data.length), at);
      await sink.write(data, at + BLOCK_HEAD_BYTES);
      at += BLOCK_HEAD_BYTES + data.length;
    }
  } finally {
    await Promise.allSettled(packing); // after a fault, nothing of this picture is still at work
  }
  await sink.write(header, 0);
  await sink.write(exrOffsets(offsets), header.length);
  return at;
}
