// The shape of a lamp's light, as its maker measured it: an IES file (ANSI/IES LM-63, type C photometry), kept as a
// value of a look by itself, so that it travels with it. A table of 2° from straight ahead to straight back and of 45°
// about, each a byte: the square root of the share of the greatest strength.

/** Rows from straight ahead (0°) to straight back (180°), and columns about. */
export const PROFILE_ROWS = 91;
export const PROFILE_COLUMNS = 8;
const ROW_DEG = 2;
const COLUMN_DEG = 45;

export interface LightProfile {
  readonly name: string;
  /** Row by row, 0…1 of the greatest strength. */
  readonly shares: Float32Array;
}

export const EVEN_LIGHT = 'none';
const PREFIX = 'ies';
const MOST_NAME = 120;

export function profileValue({ name, shares }: LightProfile): string {
  const bytes = Array.from(shares, (x) => String.fromCharCode(Math.round(255 * Math.sqrt(x))));
  return `${PREFIX}:${btoa(bytes.join(''))}:${name.slice(0, MOST_NAME).toWellFormed()}`;
}

const read = new Map<string, LightProfile>();
const MOST_READ = 200;
/** @returns undefined for any other value */
export function parseProfile(value: unknown): LightProfile | undefined {
  if (typeof value !== 'string' || !value.startsWith(`${PREFIX}:`)) return undefined;
  const known = read.get(value);
  if (known) return known;
  const [, packed = '', ...name] = value.split(':');
  if (!/^[A-Za-z0-9+/]+=*$/.test(packed)) return undefined;
  let bytes: string;
  try {
    bytes = atob(packed);
  } catch {
    return undefined;
  }
  if (bytes.length !== PROFILE_ROWS * PROFILE_COLUMNS || !name.length) return undefined;
  const shares = Float32Array.from(bytes, (c) => (c.charCodeAt(0) / 255) ** 2);
  const profile = { name: name.join(':'), shares };
  if (read.size >= MOST_READ) read.clear();
  read.set(value, profile);
  return profile;
}

export class PhotometryError extends Error {}
const fault = (what: string): never => {
  throw new PhotometryError(what);
};

/** More angles than any file has. */
const MOST_ANGLES = 2000;

/**
 * @param text of an IES file
 * @param name of the file
 * @throws PhotometryError with what is wrong
 */
export function readIes(text: string, name: string): LightProfile {
  const tilt = /^\s*TILT\s*=\s*(.*)$/im.exec(text);
  if (!tilt) return fault('This is no IES file: it has no line “TILT=”.');
  const kind = tilt[1]!.trim().toUpperCase();
  if (kind !== 'NONE' && kind !== 'INCLUDE')
    fault('The tilt of its lamp lies in another file. Save it with TILT=NONE.');
  const words = text
    .slice(tilt.index + tilt[0].length)
    .split(/[\s,]+/)
    .filter(Boolean);
  const numbers = words.map(Number);
  let at = 0;
  const next = (): number => {
    const x = numbers[at++];
    if (x === undefined || !Number.isFinite(x)) fault(`Number ${at} after “TILT=” is ${words[at - 1] ?? 'missing'}.`);
    return x!;
  };
  if (kind === 'INCLUDE') {
    next(); // how the lamp stands
    const pairs = next();
    at += 2 * pairs;
  }
  at += 2; // lamps, lumens
  next();
  const rows = next();
  const columns = next();
  const type = next();
  if (type !== 1) fault(`Its photometry is of type ${type === 2 ? 'B' : 'A'}; only type C can be read.`);
  at += 7; // unit, three sizes; ballast, one that is not used, watts
  const isCount = (n: number) => Number.isInteger(n) && n >= 1 && n <= MOST_ANGLES;
  if (!isCount(rows) || !isCount(columns)) fault(`It says that it has ${rows} × ${columns} angles.`);
  const vertical = Array.from({ length: rows }, next);
  const horizontal = Array.from({ length: columns }, next);
  for (const angles of [vertical, horizontal])
    if (angles.some((x, i) => i > 0 && !(x > angles[i - 1]!))) fault('Its angles are not in order.');
  const candela = Array.from({ length: rows * columns }, next);
  const most = candela.reduce((a, b) => Math.max(a, b)); // too many to be arguments
  if (!(most > 0)) fault('It gives no light in any direction.');
  const strength = (row: number, column: number) => Math.max(0, candela[column * rows + row]!) / most;
  const shares = new Float32Array(PROFILE_ROWS * PROFILE_COLUMNS);
  for (let r = 0; r < PROFILE_ROWS; r++)
    for (let c = 0; c < PROFILE_COLUMNS; c++) {
      const [a, b, k] = between(vertical, r * ROW_DEG);
      if (a < 0) continue;
      const [x, y, m] = between(horizontal, folded(c * COLUMN_DEG, horizontal.at(-1)!));
      const along = (column: number) => strength(a, column) * (1 - k) + strength(b, column) * k;
      shares[r * PROFILE_COLUMNS + c] = along(Math.max(0, x)) * (1 - m) + along(Math.max(0, y)) * m;
    }
  return { name: name.replace(/\.ies$/i, ''), shares };
}

/** Files say a quarter, a half or all of what is about the axis; the rest is its mirror image. */
function folded(deg: number, last: number): number {
  if (last <= 0) return 0;
  const half = deg > 180 ? 360 - deg : deg;
  if (last <= 90) return half > 90 ? 180 - half : half;
  return last <= 180 ? half : deg;
}
/** The places in a rising list on both sides of an angle and the way between them; −1: it lies outside. */
function between(angles: readonly number[], deg: number): readonly [number, number, number] {
  if (angles.length === 1) return [0, 0, 0];
  if (deg < angles[0]! - 1e-6 || deg > angles.at(-1)! + 1e-6) return [-1, -1, 0];
  let i = 1;
  while (i < angles.length - 1 && angles[i]! < deg) i++;
  const from = angles[i - 1]!;
  const k = Math.min(1, Math.max(0, (deg - from) / (angles[i]! - from)));
  return [i - 1, i, k];
}
