// Three-dimensional look-up tables that were brought in. A grade refers to one by a value that names its content, size
// and file.

export interface ImportedLut {
  readonly hash: string;
  readonly size: number;
  readonly name: string;
}
/** Entries red fastest, then green, then blue: size³ × 3 values. Input and output are display codes 0 … 1. */
export interface Lut {
  readonly size: number;
  readonly data: Float32Array;
}

/** “lut:HASH:33:evening.cube” */
export const lutValue = (l: ImportedLut): string => `lut:${l.hash}:${l.size}:${l.name}`;
export function parseLut(value: unknown): ImportedLut | undefined {
  const m = typeof value === 'string' ? /^lut:([0-9a-f]{64}):(\d{1,3}):(.*)$/s.exec(value) : null;
  return m ? { hash: m[1]!, size: Number(m[2]), name: m[3]! } : undefined;
}
/** Stored: size³ × 3 floats, little-endian. */
export const packLut = (l: Lut): Uint8Array => new Uint8Array(l.data.buffer, l.data.byteOffset, l.data.byteLength);
/** @throws RangeError where the bytes are not a table of that size */
export function unpackLut(bytes: Uint8Array, { size, name }: ImportedLut): Lut {
  if (bytes.byteLength !== size ** 3 * 12) throw new RangeError(`The LUT “${name}” is damaged. Import it again.`);
  return { size, data: new Float32Array(bytes.slice().buffer) };
}

/**
 * Tetrahedral interpolation: the cell's six tetrahedra share its grey diagonal, so that greys stay grey where the
 * table's are. out: RGB from at on.
 */
export function lookUp(
  { size, data }: Lut,
  r: number,
  g: number,
  b: number,
  out: Float64Array | number[],
  at = 0,
): void {
  const top = size - 1;
  const place = (x: number) => Math.min(top, Math.max(0, x * top));
  const pr = place(r);
  const pg = place(g);
  const pb = place(b);
  const ir = Math.min(top - 1, Math.floor(pr));
  const ig = Math.min(top - 1, Math.floor(pg));
  const ib = Math.min(top - 1, Math.floor(pb));
  const fr = pr - ir;
  const fg = pg - ig;
  const fb = pb - ib;
  const corner = (dr: number, dg: number, db: number) => ((ib + db) * size * size + (ig + dg) * size + ir + dr) * 3;
  const black = corner(0, 0, 0);
  const white = corner(1, 1, 1);
  let high: number, middle: number, low: number, one: number, two: number;
  if (fr >= fg) {
    if (fg >= fb) {
      high = fr;
      middle = fg;
      low = fb;
      one = corner(1, 0, 0);
      two = corner(1, 1, 0);
    } else if (fr >= fb) {
      high = fr;
      middle = fb;
      low = fg;
      one = corner(1, 0, 0);
      two = corner(1, 0, 1);
    } else {
      high = fb;
      middle = fr;
      low = fg;
      one = corner(0, 0, 1);
      two = corner(1, 0, 1);
    }
  } else if (fb >= fg) {
    high = fb;
    middle = fg;
    low = fr;
    one = corner(0, 0, 1);
    two = corner(0, 1, 1);
  } else if (fb >= fr) {
    high = fg;
    middle = fb;
    low = fr;
    one = corner(0, 1, 0);
    two = corner(0, 1, 1);
  } else {
    high = fg;
    middle = fr;
    low = fb;
    one = corner(0, 1, 0);
    two = corner(1, 1, 0);
  }
  for (let k = 0; k < 3; k++)
    out[at + k] =
      (1 - high) * data[black + k]! +
      (high - middle) * data[one + k]! +
      (middle - low) * data[two + k]! +
      low * data[white + k]!;
}
