// ICC profiles of displays, by their primaries and curve (ICC.1:2010, version 4.2: header 7.2, tags 7.3, matrix and
// curve 9.2, types 10).
import {
  type DisplaySpace,
  type Rows,
  type Triple,
  VIDEO_GAMMA,
  adapted,
  times,
  xyzOf,
  xyzOfRgb,
} from '@variscen/core/image';

/** White of the space that profiles connect by, as the standard writes it. */
const D50: Triple = [0.9642, 1, 0.8249];
const VERSION = 0x04200000;
const HEADER_BYTES = 128;
const ENTRY_BYTES = 12;

/** @param name what programs call it */
export function iccProfile({ primaries, curve }: DisplaySpace, name: string): Buffer {
  const toD50 = adapted(xyzOf(primaries.white), D50);
  const columns = times(toD50, xyzOfRgb(primaries));
  const column = (k: 0 | 1 | 2) => xyz([columns[0][k], columns[1][k], columns[2][k]]);
  const shape = parametric(curve);
  return assembled([
    ['desc', text(name)],
    ['cprt', text('No copyright, use freely')],
    ['wtpt', xyz(D50)],
    ['chad', matrix(toD50)],
    ['rXYZ', column(0)],
    ['gXYZ', column(1)],
    ['bXYZ', column(2)],
    ['rTRC', shape],
    ['gTRC', shape],
    ['bTRC', shape],
  ]);
}

function assembled(tags: readonly (readonly [string, Buffer])[]): Buffer {
  const table = Buffer.alloc(4 + tags.length * ENTRY_BYTES);
  table.writeUInt32BE(tags.length, 0);
  const bodies: Buffer[] = [];
  const placeOf = new Map<Buffer, number>();
  let end = HEADER_BYTES + table.length;
  tags.forEach(([signature, body], i) => {
    let at = placeOf.get(body); // curves are shared
    if (at === undefined) {
      at = end;
      placeOf.set(body, at);
      const padded = Buffer.concat([body, Buffer.alloc(-body.length & 3)]);
      bodies.push(padded);
      end += padded.length;
    }
    const entry = 4 + i * ENTRY_BYTES;
    table.write(signature, entry, 'latin1');
    table.writeUInt32BE(at, entry + 4);
    table.writeUInt32BE(body.length, entry + 8);
  });
  return Buffer.concat([header(end), table, ...bodies]);
}
function header(size: number): Buffer {
  const out = Buffer.alloc(HEADER_BYTES);
  out.writeUInt32BE(size, 0);
  out.writeUInt32BE(VERSION, 8);
  out.write('mntrRGB XYZ ', 12, 'latin1');
  [2026, 1, 1].forEach((x, i) => out.writeUInt16BE(x, 24 + i * 2));
  out.write('acsp', 36, 'latin1');
  numbers(D50).copy(out, 68);
  return out;
}

/** s15Fixed16Number each. */
function numbers(values: readonly number[]): Buffer {
  const out = Buffer.alloc(values.length * 4);
  values.forEach((x, i) => out.writeInt32BE(Math.round(x * 65_536), i * 4));
  return out;
}
const typed = (type: string, ...parts: readonly Buffer[]): Buffer =>
  Buffer.concat([Buffer.from(`${type}\0\0\0\0`, 'latin1'), ...parts]);
const xyz = (value: Triple): Buffer => typed('XYZ ', numbers(value));
const matrix = (rows: Rows): Buffer => typed('sf32', numbers(rows.flat()));

/** In one language. */
function text(words: string): Buffer {
  const letters = Buffer.from(words, 'utf16le').swap16();
  const head = Buffer.alloc(20);
  head.writeUInt32BE(1, 0);
  head.writeUInt32BE(12, 4);
  head.write('enUS', 8, 'latin1');
  head.writeUInt32BE(letters.length, 12);
  head.writeUInt32BE(28, 16);
  return typed('mluc', head, letters);
}

/** Of codes: x^g; or (a·x + b)^g from d on, and c·x below (IEC 61966-2-1). */
function parametric(curve: DisplaySpace['curve']): Buffer {
  const kind = Buffer.alloc(4);
  kind.writeUInt16BE(curve === 'gamma' ? 0 : 3, 0);
  const values = curve === 'gamma' ? [VIDEO_GAMMA] : [2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045];
  return typed('para', kind, numbers(values));
}
