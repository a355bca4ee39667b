// What an OpenEXR file's headers say, and whether all that they and the offset tables speak of is in the file: the
// reader trusts both, and does not come back from a torn one.
// "OpenEXR File Layout": magic, version and flags; headers of attributes as name\0 type\0 size value, each ended by an
// empty name, in a multi-part file all of them by one more; for each part a table of offsets of its chunks, 0 where one
// was never written; the chunks, in any order.

import type { Primaries } from '../image/index.ts';

export interface ExrPart {
  readonly channels: readonly string[];
  readonly compression: number;
  readonly isDeep: boolean;
  /** It is the file's only part, in scan lines, and each of its channels has a half or a float for every pixel. */
  readonly isPlain: boolean;
  readonly width: number;
  readonly height: number;
  /** As the file says; absent: Rec. 709, by the standard. */
  readonly primaries: Primaries | undefined;
}

const FLAGS = { tiled: 0x200, deep: 0x800, multiPart: 0x1000 };
const UINT = 0;
const LONGEST_TEXT = 256;
const CHROMATICITIES_BYTES = 32;
/** 8 and 9 in the list of compressions. */
export const isDwa = (p: ExrPart): boolean => p.compression === 8 || p.compression === 9;

class Cursor {
  at = 8;
  private readonly view: DataView;
  constructor(private readonly bytes: Uint8Array) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }
  /** @throws RangeError past the end */
  u32(at: number): number {
    return this.view.getUint32(at, true);
  }
  f32(at: number): number {
    return this.view.getFloat32(at, true);
  }
  i32(at: number): number {
    return this.view.getInt32(at, true);
  }
  offset(at: number): number {
    return Number(this.view.getBigUint64(at, true));
  }
  text(): string {
    const from = this.at;
    while (this.at < this.bytes.length && this.bytes[this.at] !== 0 && this.at - from < LONGEST_TEXT) this.at++;
    if (this.bytes[this.at] !== 0) throw new RangeError('A text without an end.');
    return new TextDecoder().decode(this.bytes.subarray(from, this.at++));
  }
}

interface Header extends ExrPart {
  readonly isTiled: boolean;
  readonly chunks: number | undefined;
}

/** Undefined where the file is cut short or damaged. */
export function exrParts(bytes: Uint8Array): ExrPart[] | undefined {
  try {
    const c = new Cursor(bytes);
    const flags = c.u32(4);
    const isMultiPart = (flags & FLAGS.multiPart) !== 0;
    const parts: Header[] = [];
    do parts.push(readHeader(c, bytes, flags));
    while (isMultiPart && bytes[c.at] !== 0);
    if (isMultiPart) c.at++;
    return hasAllChunks(c, bytes.length, parts, isMultiPart) ? parts : undefined;
  } catch (e) {
    if (e instanceof RangeError) return undefined;
    throw e;
  }
}

function readHeader(c: Cursor, bytes: Uint8Array, flags: number): Header {
  const channels: string[] = [];
  let isWhole = true;
  let type = '';
  let compression = 0;
  let chunks: number | undefined;
  let width = 0;
  let height = 0;
  let primaries: Primaries | undefined;
  for (;;) {
    const name = c.text();
    if (name === '') break;
    c.text(); // the type's name
    const size = c.u32(c.at);
    const at = c.at + 4;
    const end = at + size;
    if (end > bytes.length) throw new RangeError('An attribute past the end.');
    if (name === 'compression') compression = bytes[at]!;
    else if (name === 'chunkCount') chunks = c.i32(at);
    else if (name === 'type') type = new TextDecoder().decode(bytes.subarray(at, end));
    else if (name === 'dataWindow') {
      width = c.i32(at + 8) - c.i32(at) + 1;
      height = c.i32(at + 12) - c.i32(at + 4) + 1;
    } else if (name === 'chromaticities' && size === CHROMATICITIES_BYTES) {
      const xy = (k: number) => [c.f32(at + k * 8), c.f32(at + k * 8 + 4)] as const;
      primaries = { red: xy(0), green: xy(1), blue: xy(2), white: xy(3) };
    } else if (name === 'channels') {
      c.at = at;
      for (let channel = c.text(); channel !== ''; channel = c.text()) {
        channels.push(channel);
        // the type, four bytes of which none matters here, and of how many pixels each way it has one
        isWhole &&= c.u32(c.at) !== UINT && c.u32(c.at + 8) === 1 && c.u32(c.at + 12) === 1;
        c.at += 16;
      }
    }
    c.at = end;
  }
  const isTiled = type ? type.includes('tile') : (flags & FLAGS.tiled) !== 0;
  const isDeep = type ? type.startsWith('deep') : (flags & FLAGS.deep) !== 0;
  const isPlain = isWhole && !isTiled && !isDeep && (flags & FLAGS.multiPart) === 0;
  return { channels, compression, isDeep, isPlain, isTiled, chunks, width, height, primaries };
}

function hasAllChunks(c: Cursor, end: number, parts: readonly Header[], isMultiPart: boolean): boolean {
  const offsets: { readonly at: number; readonly part: Header }[] = [];
  let table = c.at;
  if (isMultiPart) {
    for (const part of parts) {
      if (part.chunks === undefined || part.chunks < 1 || table + part.chunks * 8 > end) return false;
      for (let k = 0; k < part.chunks; k++, table += 8) offsets.push({ at: c.offset(table), part });
    }
  } else {
    // the table ends where the first chunk of the file begins, which need not be the first of the table
    let first = Infinity;
    for (; table < first && table + 8 <= end; table += 8) {
      const at = c.offset(table);
      offsets.push({ at, part: parts[0]! });
      first = Math.min(first, at);
    }
    if (table !== first) return false;
  }
  const partBytes = isMultiPart ? 4 : 0;
  return offsets.every(({ at, part }) => {
    if (part.isDeep) return at >= table && at < end;
    const size = at + partBytes + (part.isTiled ? 16 : 4);
    return at >= table && size + 4 <= end && size + 4 + c.u32(size) <= end;
  });
}
