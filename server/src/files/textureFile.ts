// A texture with all its levels as a file that is read level by level.
//
// Bytes: a head of 64 (u32 magic, width, height, bits of a channel), then the levels, the finest first, each
// 64-aligned.
import { type Texels, levelBytes, madeLevels, mipSizes } from '@variscen/engine';

const MAGIC = 0x54585356;
export const TEXTURE_HEAD_BYTES = 64;

export interface TextureSize {
  readonly width: number;
  readonly height: number;
  readonly bits: 8 | 16;
}

export const bytesOfTexture = (t: TextureSize): number => TEXTURE_HEAD_BYTES + offsetOf(t, Infinity);
/** Bytes of the levels before one. */
const offsetOf = (t: TextureSize, level: number): number =>
  mipSizes(t.width, t.height)
    .slice(0, level)
    .reduce((sum, size) => sum + levelBytes(size, t.bits), 0);

function headOf({ width, height, bits }: TextureSize): Uint8Array {
  const words = new Uint32Array(TEXTURE_HEAD_BYTES / 4);
  words.set([MAGIC, width, height, bits]);
  return new Uint8Array(words.buffer);
}
/** Whether a file that begins so is of this texture. */
export const isHeadOf = (bytes: Uint8Array, t: TextureSize): boolean => headOf(t).every((byte, i) => bytes[i] === byte);

/** The file, part by part. @param isSrgb its colours are averaged as light */
export function* textureFile(t: TextureSize, texels: Texels, isSrgb: boolean): Generator<Uint8Array> {
  yield headOf(t);
  for (const level of madeLevels(t, texels, 0, isSrgb)) {
    yield new Uint8Array(level.buffer, level.byteOffset, level.byteLength);
    const over = level.byteLength % 64;
    if (over) yield new Uint8Array(64 - over);
  }
}

export async function readLevel(
  t: TextureSize,
  level: number,
  read: (from: number, bytes: number) => Promise<Uint8Array>,
): Promise<Texels> {
  const { width, height } = mipSizes(t.width, t.height)[level]!;
  const bytes = await read(TEXTURE_HEAD_BYTES + offsetOf(t, level), width * height * 4 * (t.bits / 8));
  return t.bits === 16 ? new Uint16Array(bytes.buffer, bytes.byteOffset, bytes.length / 2) : bytes;
}
