// A tile as bytes: halves (IEEE 754), channel after channel; each line as differences of their codes, high bytes before
// low ones, so that packing finds what is alike.
import { halfOfBits, halfValues } from '../half.ts';

export function tileToBytes(pixels: Float32Array, widthPx: number, channels: number): Uint8Array {
  const n = pixels.length;
  const out = new Uint8Array(n * 2);
  const bits = new Uint32Array(pixels.buffer, pixels.byteOffset, n);
  const plane = n / channels;
  for (let k = 0; k < channels; k++) {
    let before = 0;
    for (let i = 0; i < plane; i++) {
      if (i % widthPx === 0) before = 0;
      const code = halfOfBits(bits[i * channels + k]!);
      const difference = (code - before) & 0xffff;
      out[k * plane + i] = difference >>> 8;
      out[n + k * plane + i] = difference & 0xff;
      before = code;
    }
  }
  return out;
}

/** @throws RangeError of bytes that are no whole pixels */
export function tileFromBytes(bytes: Uint8Array, widthPx: number, channels: number): Float32Array {
  const n = bytes.length / 2;
  if (!Number.isInteger(n / (widthPx * channels))) throw new RangeError('The tile is cut short.');
  const out = new Float32Array(n);
  const values = halfValues();
  const plane = n / channels;
  for (let k = 0; k < channels; k++) {
    let code = 0;
    for (let i = 0; i < plane; i++) {
      if (i % widthPx === 0) code = 0;
      code = (code + (bytes[k * plane + i]! << 8) + bytes[n + k * plane + i]!) & 0xffff;
      out[i * channels + k] = values[code]!;
    }
  }
  return out;
}
