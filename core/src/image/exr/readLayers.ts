// Layers of an OpenEXR file as this product writes it: one part of scan lines, of halves and floats, packed as ZIP,
// ZIPS or not at all. Read block by block, however large, and made smaller on the way. Files of others are read
// elsewhere (core/src/import/readExr.ts).
import { halfValues } from '../half.ts';

export interface ExrSource {
  /** So many bytes of it, or fewer at its end. */
  read(from: number, bytes: number): Promise<Uint8Array>;
  /** Unpacks what zlib packed (RFC 1950). @param bytes that come out */
  inflate(packed: Uint8Array, bytes: number): Uint8Array;
}
export interface ExrLayers {
  readonly widthPx: number;
  readonly heightPx: number;
  /** By name, row by row from the top. */
  readonly channels: ReadonlyMap<string, Float32Array>;
}

interface Channel {
  readonly name: string;
  readonly bytes: 2 | 4;
}
interface Header {
  readonly channels: readonly Channel[];
  /** Lines of a block. */
  readonly lines: number;
  readonly isPacked: boolean;
  readonly top: number;
  readonly widthPx: number;
  readonly heightPx: number;
  /** Where the table of blocks begins. */
  readonly end: number;
  readonly texts: ReadonlyMap<string, string>;
}

/** By layer of a single source's light, after “light.”, which source of the scene it is: a JSON text. */
export const LIGHTS_ATTRIBUTE = 'variscen:lights';
const FIRST_READ = 1 << 16;
const LONGEST_HEADER = 1 << 28;
const LINES: readonly (number | undefined)[] = [1, undefined, 1, 16];

/** What a file holds, before any of its pixels are read. */
export interface ExrAbout {
  readonly widthPx: number;
  readonly heightPx: number;
  readonly channels: readonly string[];
  /** Names of those that are halves; others are floats. */
  readonly halves: ReadonlySet<string>;
  /** Attributes by name: of Cryptomatte, which ids there are, and of what; of lights that are layers, their targets. */
  readonly texts: ReadonlyMap<string, string>;
}
export async function readExrAbout(source: ExrSource): Promise<ExrAbout> {
  return aboutOf(await readHeader(source));
}

const aboutOf = ({ widthPx, heightPx, channels, texts }: Header): ExrAbout => ({
  widthPx,
  heightPx,
  texts,
  channels: channels.map((c) => c.name),
  halves: new Set(channels.filter((c) => c.bytes === 2).map((c) => c.name)),
});

/**
 * @param isWanted by name of a channel
 * @param mostWidthPx wider pictures are averaged over squares of pixels until they are not
 * @throws RangeError of a file that is not as this product writes it, or cut short
 */
export async function readExrLayers(
  source: ExrSource,
  isWanted: (channel: string) => boolean,
  mostWidthPx: number,
): Promise<ExrLayers> {
  let picture: Reduced | undefined;
  await readExrLines(source, isWanted, (about) => {
    const of = (picture = new Reduced(about, isWanted, mostWidthPx));
    return (row, lines) => of.add(row, lines);
  });
  return picture!.layers();
}

/** A line of each channel that is wanted, from the left; they are written over by the next. */
export type TakeLine = (row: number, lines: ReadonlyMap<string, Float32Array>) => void;
/** A line of each of some channels as codes of halves, in the order in which they were asked for. */
export type TakeHalves = (row: number, lines: readonly Uint16Array[]) => void;

/**
 * Every line from the top, one after another: of the whole picture no more than a block is in memory.
 * @param begin is told what there is, and says what takes the lines
 * @param only this line alone; absent: all
 * @throws RangeError of a file that is not as this product writes it, or cut short
 */
export async function readExrLines(
  source: ExrSource,
  isWanted: (channel: string) => boolean,
  begin: (about: ExrAbout) => TakeLine,
  only?: number,
): Promise<void> {
  const header = await readHeader(source);
  const { widthPx, channels } = header;
  const take = begin(aboutOf(header));
  const lines = new Map(channels.filter((c) => isWanted(c.name)).map((c) => [c.name, new Float32Array(widthPx)]));
  const takeBytes = (row: number, bytes: Uint8Array) => {
    fillLines(lines, channels, new DataView(bytes.buffer, bytes.byteOffset, bytes.length), widthPx);
    take(row, lines);
  };
  await readRows(source, header, takeBytes, only);
}

/**
 * As readExrLines, of channels that are halves, without making numbers of them: who looks each up in a table is several
 * times as quick so.
 * @throws RangeError also where a channel is missing, or is no half
 */
export async function readExrHalves(
  source: ExrSource,
  names: readonly string[],
  begin: (about: ExrAbout) => TakeHalves,
): Promise<void> {
  const header = await readHeader(source);
  const { widthPx, channels } = header;
  const take = begin(aboutOf(header));
  const places = names.map((name) => {
    const i = channels.findIndex((c) => c.name === name && c.bytes === 2);
    if (i < 0) throw new RangeError(`The file has no halves called ${name}.`);
    return widthPx * channels.slice(0, i).reduce((n, c) => n + c.bytes, 0);
  });
  await readRows(source, header, (row, bytes) =>
    take(
      row,
      places.map((at) => halvesAt(bytes, at, widthPx)),
    ),
  );
}
function halvesAt(bytes: Uint8Array, at: number, count: number): Uint16Array {
  const from = bytes.byteOffset + at;
  if (from % 2 === 0) return new Uint16Array(bytes.buffer, from, count);
  return new Uint16Array(bytes.slice(at, at + count * 2).buffer);
}

/** The bytes of each row: channel after channel, in the order of the header. */
async function readRows(
  source: ExrSource,
  header: Header,
  take: (row: number, bytes: Uint8Array) => void,
  only?: number,
): Promise<void> {
  const { widthPx, heightPx, channels } = header;
  const blocks = Math.ceil(heightPx / header.lines);
  const table = await exactly(source, header.end, blocks * 8);
  const offsets = new DataView(table.buffer, table.byteOffset, table.byteLength);
  const bytesOfLine = widthPx * channels.reduce((n, c) => n + c.bytes, 0);
  const first = only === undefined ? 0 : Math.floor(only / header.lines);
  const last = only === undefined ? blocks - 1 : first;
  const unfiltered = unfiltering(header.isPacked ? header.lines * bytesOfLine : 0);
  for (let block = first; block <= last; block++) {
    const at = Number(offsets.getBigUint64(block * 8, true));
    const head = await exactly(source, at, 8);
    const view = new DataView(head.buffer, head.byteOffset, 8);
    const row = view.getInt32(0, true) - header.top;
    const rows = Math.min(header.lines, heightPx - row);
    const data = await exactly(source, at + 8, view.getUint32(4, true));
    const isPacked = header.isPacked && data.length < rows * bytesOfLine;
    const unpacked = isPacked ? unfiltered(source.inflate(data, rows * bytesOfLine)) : data;
    for (let k = 0; k < rows; k++)
      if (only === undefined || row + k === only)
        take(row + k, unpacked.subarray(k * bytesOfLine, (k + 1) * bytesOfLine));
  }
}

function fillLines(
  lines: ReadonlyMap<string, Float32Array>,
  channels: readonly Channel[],
  bytes: DataView,
  widthPx: number,
): void {
  const values = halfValues();
  let at = 0;
  for (const channel of channels) {
    const line = lines.get(channel.name);
    if (line && channel.bytes === 2)
      for (let x = 0; x < widthPx; x++) line[x] = values[bytes.getUint16(at + x * 2, true)]!;
    else if (line) for (let x = 0; x < widthPx; x++) line[x] = bytes.getFloat32(at + x * 4, true);
    at += widthPx * channel.bytes;
  }
}

async function exactly(source: ExrSource, from: number, bytes: number): Promise<Uint8Array> {
  const read = await source.read(from, bytes);
  if (read.length !== bytes) throw new RangeError('The file is cut short.');
  return read;
}

/** The header holds names of all objects: it may be megabytes. */
async function readHeader(source: ExrSource): Promise<Header> {
  for (let bytes = FIRST_READ; bytes <= LONGEST_HEADER; bytes *= 4) {
    const read = await source.read(0, bytes);
    const header = headerIn(read);
    if (header) return header;
    if (read.length < bytes) break;
  }
  throw new RangeError('The file is no OpenEXR picture, or cut short.');
}

/** Undefined where it goes on behind these bytes. @throws RangeError of what this product does not write */
function headerIn(bytes: Uint8Array): Header | undefined {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 8 || view.getUint32(0, true) !== 20_000_630)
    throw new RangeError('The file is no OpenEXR picture.');
  let at = 8;
  const text = (): string | undefined => {
    const end = bytes.indexOf(0, at);
    if (end < 0) return undefined;
    const found = new TextDecoder().decode(bytes.subarray(at, end));
    at = end + 1;
    return found;
  };
  let channels: Channel[] = [];
  let compression = -1;
  let window: readonly number[] = [];
  const texts = new Map<string, string>();
  for (;;) {
    const name = text();
    if (name === undefined) return undefined;
    if (name === '') break;
    if (text() === undefined || at + 4 > bytes.length) return undefined;
    const end = at + 4 + view.getUint32(at, true);
    at += 4;
    if (end > bytes.length) return undefined;
    if (name === 'compression') compression = bytes[at]!;
    if (name === 'dataWindow') window = [0, 4, 8, 12].map((k) => view.getInt32(at + k, true));
    if (name === 'channels') channels = channelsIn(bytes.subarray(at, end));
    if (name.startsWith('cryptomatte/') || name === LIGHTS_ATTRIBUTE)
      texts.set(name, new TextDecoder().decode(bytes.subarray(at, end)));
    at = end;
  }
  const lines = LINES[compression];
  if (lines === undefined || window.length === 0 || !channels.length)
    throw new RangeError('The file is packed otherwise than it was written.');
  const [left, top, right, bottom] = window as [number, number, number, number];
  return {
    channels,
    lines,
    isPacked: compression > 0,
    top,
    widthPx: right - left + 1,
    heightPx: bottom - top + 1,
    end: at,
    texts,
  };
}

function channelsIn(bytes: Uint8Array): Channel[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const out: Channel[] = [];
  for (let at = 0; bytes[at] !== 0;) {
    const end = bytes.indexOf(0, at);
    const name = new TextDecoder().decode(bytes.subarray(at, end));
    out.push({ name, bytes: view.getUint32(end + 1, true) === 1 ? 2 : 4 });
    at = end + 17;
  }
  return out;
}

/**
 * Undoes what exrBlocks.ts does before it packs: each byte is a difference, the even ones stand before the odd ones.
 * What it gives is written over by the next.
 */
function unfiltering(mostBytes: number): (given: Uint8Array) => Uint8Array {
  const out = new Uint8Array(mostBytes + (mostBytes & 1));
  const pairs = new Uint16Array(out.buffer); // the first byte of each is the lower, as on all that this runs on
  return (given) => {
    const { length } = given;
    const half = (length + 1) >> 1;
    let first = 0;
    for (let i = 0; i < half; i++) first = (first + given[i]!) | 0;
    // the second half goes on from where the first ends: with that known, both are undone side by side
    let even = 128;
    let odd = (128 + first + half * 128) | 0;
    for (let i = 0, k = half; k < length; i++, k++) {
      even = (even + given[i]! + 128) | 0;
      odd = (odd + given[k]! + 128) | 0;
      pairs[i] = (even & 255) | ((odd & 255) << 8);
    }
    if (length & 1) out[length - 1] = even + given[half - 1]! + 128;
    return out.subarray(0, length);
  };
}

/** Adds up squares of pixels as their lines come. */
class Reduced {
  private readonly by: number;
  private readonly widthPx: number;
  private readonly heightPx: number;
  private readonly sums = new Map<string, Float32Array>();

  constructor(
    private readonly whole: ExrAbout,
    isWanted: (channel: string) => boolean,
    mostWidthPx: number,
  ) {
    this.by = Math.max(1, Math.ceil(whole.widthPx / mostWidthPx));
    this.widthPx = Math.ceil(whole.widthPx / this.by);
    this.heightPx = Math.ceil(whole.heightPx / this.by);
    for (const name of whole.channels)
      if (isWanted(name)) this.sums.set(name, new Float32Array(this.widthPx * this.heightPx));
  }

  add(row: number, lines: ReadonlyMap<string, Float32Array>): void {
    const { by, widthPx } = this;
    const to = Math.floor(row / by) * widthPx;
    for (const [name, line] of lines) {
      const sums = this.sums.get(name)!;
      for (let x = 0; x < line.length; x++) sums[to + Math.floor(x / by)]! += line[x]!;
    }
  }

  /** As means. Squares at the right and at the bottom may be cut. */
  layers(): ExrLayers {
    const { by, widthPx, heightPx, whole } = this;
    for (const sums of this.sums.values())
      for (let y = 0; y < heightPx; y++)
        for (let x = 0; x < widthPx; x++)
          sums[y * widthPx + x]! /= Math.min(by, whole.widthPx - x * by) * Math.min(by, whole.heightPx - y * by);
    return { widthPx, heightPx, channels: this.sums };
  }
}
