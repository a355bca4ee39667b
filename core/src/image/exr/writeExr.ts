// An OpenEXR file in memory, at once: for small pictures.
import { zlibSync } from 'fflate';
import { exrBlockCount, exrBlockData, exrBlockHead, exrFiltered, exrScanLines } from './exrBlocks.ts';
import { exrHeader, exrOffsets } from './exrHeader.ts';
import { type ExrImage, checkExrImage } from './exrImage.ts';

export function writeExr(image: ExrImage): Uint8Array {
  checkExrImage(image);
  const header = exrHeader(image);
  const blocks = exrBlockCount(image);
  const offsets: number[] = [];
  const pieces: Uint8Array[] = [];
  let at = header.length + blocks * 8;
  for (let block = 0; block < blocks; block++) {
    const data =
      image.compression === 'none'
        ? exrScanLines(image, block)
        : exrBlockData(image, block, zlibSync(exrFiltered(image, block)));
    const head = exrBlockHead(image, block, data.length);
    offsets.push(at);
    pieces.push(head, data);
    at += head.length + data.length;
  }
  return joined([header, exrOffsets(offsets), ...pieces], at);
}

function joined(pieces: readonly Uint8Array[], bytes: number): Uint8Array {
  const out = new Uint8Array(bytes);
  let at = 0;
  for (const piece of pieces) {
    out.set(piece, at);
    at += piece.length;
  }
  return out;
}
