// Puts the profile of a display into a file, without touching a code. The library that writes pictures converts them
// when it is told a profile; of 16 bits even that of sRGB moved colours: 30000, 20000, 10000 became 31730, 19440, 7695.
import { crc32, deflateSync } from 'node:zlib';
import { DISPLAY_SPACES, type Display } from '@variscen/core/image';
import sharp from 'sharp';
import { iccProfile } from './iccProfile.ts';

export const DISPLAY_NAMES: Readonly<Record<Display, string>> = {
  srgb: 'sRGB',
  'display-p3': 'Display P3',
  rec709: 'Rec. 709, gamma 2.4',
};
const profiles = new Map<Display, Promise<Buffer>>();
function profileOf(display: Display): Promise<Buffer> {
  const known = profiles.get(display);
  if (known) return known;
  const made =
    display === 'srgb' ? srgb() : Promise.resolve(iccProfile(DISPLAY_SPACES[display], DISPLAY_NAMES[display]));
  profiles.set(display, made);
  return made;
}
/** As the library writes it with 8 bits, where it converts nothing. */
async function srgb(): Promise<Buffer> {
  const raw = { width: 1, height: 1, channels: 3 } as const;
  const png = await sharp(new Uint8Array(3), { raw }).withIccProfile('srgb').png().toBuffer();
  return (await sharp(png).metadata()).icc!;
}

export type ProfiledFormat = 'png' | 'tiff' | 'jpeg' | 'webp';
/** @param file without a profile; a WebP with XMP */
export async function withProfile(file: Buffer, format: ProfiledFormat, display: Display): Promise<Buffer> {
  return PUT[format](file, await profileOf(display), DISPLAY_NAMES[display]);
}
const PUT: Readonly<Record<ProfiledFormat, (file: Buffer, icc: Buffer, name: string) => Buffer>> = {
  png: pngWith,
  tiff: tiffWith,
  jpeg: jpegWith,
  webp: webpWith,
};

const PNG_HEADER_END = 8 + 25;
/** As a chunk iCCP (PNG 1.2, 11.3.3.3) behind the header. */
function pngWith(file: Buffer, icc: Buffer, name: string): Buffer {
  const data = Buffer.concat([Buffer.from('iCCP'), Buffer.from(`${name}\0\0`, 'latin1'), deflateSync(icc)]);
  const length = Buffer.alloc(4);
  length.writeUInt32BE(data.length - 4);
  const check = Buffer.alloc(4);
  check.writeUInt32BE(crc32(data));
  return Buffer.concat([file.subarray(0, PNG_HEADER_END), length, data, check, file.subarray(PNG_HEADER_END)]);
}

/**
 * As a segment APP2 (ICC.1, annex B.4) behind the file's first mark, and behind the JFIF segment that must come first.
 */
function jpegWith(file: Buffer, icc: Buffer): Buffer {
  const data = Buffer.concat([Buffer.from('ICC_PROFILE\0\x01\x01', 'latin1'), icc]);
  const head = Buffer.from([0xff, 0xe2, 0, 0]);
  head.writeUInt16BE(data.length + 2, 2);
  const isJfif = file.readUInt16BE(2) === 0xffe0;
  const at = isJfif ? 4 + file.readUInt16BE(4) : 2;
  return Buffer.concat([file.subarray(0, at), head, data, file.subarray(at)]);
}

const WEBP_HEADER_END = 12;
const VP8X_BYTES = 18;
const HAS_ICC = 0x20;
/** As a chunk ICCP behind the chunk VP8X, which says that there is one (WebP Container Specification). */
function webpWith(file: Buffer, icc: Buffer): Buffer {
  if (file.toString('latin1', WEBP_HEADER_END, WEBP_HEADER_END + 4) !== 'VP8X')
    throw new Error('A WebP was written without the chunk that may speak of a profile.');
  const end = WEBP_HEADER_END + VP8X_BYTES;
  const head = Buffer.from(file.subarray(0, end));
  head[WEBP_HEADER_END + 8]! |= HAS_ICC;
  const chunk = Buffer.alloc(8);
  chunk.write('ICCP', 0, 'latin1');
  chunk.writeUInt32LE(icc.length, 4);
  const out = Buffer.concat([head, chunk, icc, Buffer.alloc(icc.length % 2), file.subarray(end)]);
  out.writeUInt32LE(out.length - 8, 4);
  return out;
}

const ICC_TAG = 34_675;
const UNDEFINED_BYTES = 7;
const ENTRY_BYTES = 12;
/** As the tag 34675 (TIFF 6.0; ICC.1, annex B.4) of a directory that takes the place of the first. */
function tiffWith(file: Buffer, icc: Buffer): Buffer {
  if (file.toString('latin1', 0, 2) !== 'II')
    throw new Error('A TIFF of 16 bits was written in an order that is not known.');
  const first = file.readUInt32LE(4);
  const count = file.readUInt16LE(first);
  const at = (i: number) => first + 2 + i * ENTRY_BYTES;
  const entries = Array.from({ length: count }, (_, i) => file.subarray(at(i), at(i) + ENTRY_BYTES));
  const own = Buffer.alloc(ENTRY_BYTES);
  // values lie at even places
  const padding = Buffer.alloc(file.length % 2);
  const iccAt = file.length + padding.length;
  own.writeUInt16LE(ICC_TAG, 0);
  own.writeUInt16LE(UNDEFINED_BYTES, 2);
  own.writeUInt32LE(icc.length, 4);
  own.writeUInt32LE(iccAt, 8);
  const sorted = [...entries, own].sort((a, b) => a.readUInt16LE(0) - b.readUInt16LE(0));
  const more = Buffer.alloc(icc.length % 2);
  const head = Buffer.alloc(2);
  head.writeUInt16LE(sorted.length);
  const next = file.subarray(at(count), at(count) + 4);
  const out = Buffer.concat([file, padding, icc, more, head, ...sorted, next]);
  out.writeUInt32LE(iccAt + icc.length + more.length, 4);
  return out;
}
