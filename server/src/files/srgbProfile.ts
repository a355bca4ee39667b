// Puts the sRGB profile into files of 16 bits, without touching a code. The library that writes them converts what has 16
// bits from another colour space to that of the profile, which moved colours: 30000, 20000, 10000 became 31730, 19440, 7695.
import { crc32, deflateSync } from 'node:zlib';
import sharp from 'sharp';

let profile: Promise<Buffer> | undefined;
/** As the library writes it with 8 bits, where it converts nothing. */
async function srgb(): Promise<Buffer> {
  const raw = { width: 1, height: 1, channels: 3 } as const;
  const png = await sharp(new Uint8Array(3), { raw }).withIccProfile('srgb').png().toBuffer();
  return (await sharp(png).metadata()).icc!;
}
const srgbProfile = (): Promise<Buffer> => (profile ??= srgb());

/** @param file of 16 bits, without a profile */
export async function withSrgbProfile(file: Buffer, format: 'png' | 'tiff'): Promise<Buffer> {
  const icc = await srgbProfile();
  return format === 'png' ? pngWith(file, icc) : tiffWith(file, icc);
}

const PNG_HEADER_END = 8 + 25;
/** As a chunk iCCP (PNG 1.2, 11.3.3.3) behind the header. */
function pngWith(file: Buffer, icc: Buffer): Buffer {
  const data = Buffer.concat([Buffer.from('iCCP'), Buffer.from('sRGB\0\0', 'latin1'), deflateSync(icc)]);
  const length = Buffer.alloc(4);
  length.writeUInt32BE(data.length - 4);
  const check = Buffer.alloc(4);
  check.writeUInt32BE(crc32(data));
  return Buffer.concat([file.subarray(0, PNG_HEADER_END), length, data, check, file.subarray(PNG_HEADER_END)]);
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
