// A TIFF of floats: linear light, RGB of 32 bits, not packed. Format: TIFF 6.0, Adobe 1992, baseline with SampleFormat
// 3 (IEEE floating point). One strip; little-endian.
const ASCII = 2;
const SHORT = 3;
const LONG = 4;
const HEAD_BYTES = 8;
const MOST_BYTES = 2 ** 32 - 65_536;

interface Field {
  readonly tag: number;
  readonly type: number;
  readonly values: readonly number[];
}
const SIZES: Readonly<Record<number, number>> = { [ASCII]: 1, [SHORT]: 2, [LONG]: 4 };

/**
 * @param film r, g, b and coverage a pixel; coverage is left out
 * @throws RangeError beyond 4 GiB, which this format cannot hold
 */
export function writeFloatTiff(
  film: Float32Array,
  { width, height, description }: { readonly width: number; readonly height: number; readonly description: string },
): Uint8Array {
  const pixelBytes = width * height * 12;
  if (pixelBytes > MOST_BYTES) throw new RangeError('A TIFF holds 4 GiB at most. Render smaller, or write OpenEXR.');
  const text = [...new TextEncoder().encode(description), 0];
  const fields: Field[] = [
    { tag: 256, type: LONG, values: [width] },
    { tag: 257, type: LONG, values: [height] },
    { tag: 258, type: SHORT, values: [32, 32, 32] },
    { tag: 259, type: SHORT, values: [1] }, // not packed
    { tag: 262, type: SHORT, values: [2] }, // RGB
    { tag: 270, type: ASCII, values: text },
    { tag: 273, type: LONG, values: [HEAD_BYTES] },
    { tag: 277, type: SHORT, values: [3] },
    { tag: 278, type: LONG, values: [height] },
    { tag: 279, type: LONG, values: [pixelBytes] },
    { tag: 284, type: SHORT, values: [1] }, // channels side by side
    { tag: 339, type: SHORT, values: [3, 3, 3] }, // floating point
  ];
  const directory = HEAD_BYTES + pixelBytes;
  const long = fields
    .map((f) => f.values.length * SIZES[f.type]!)
    .map((bytes) => (bytes > 4 ? bytes + (bytes % 2) : 0));
  const directoryBytes = 2 + fields.length * 12 + 4;
  const view = new DataView(new ArrayBuffer(directory + directoryBytes + long.reduce((n, x) => n + x, 0)));
  view.setUint16(0, 0x4949);
  view.setUint16(2, 42, true);
  view.setUint32(4, directory, true);
  const pixels = new Float32Array(view.buffer, HEAD_BYTES, width * height * 3);
  for (let i = 0; i < width * height; i++) pixels.set(film.subarray(i * 4, i * 4 + 3), i * 3);
  view.setUint16(directory, fields.length, true);
  let beyond = directory + directoryBytes;
  fields.forEach(({ tag, type, values }, i) => {
    const at = directory + 2 + i * 12;
    view.setUint16(at, tag, true);
    view.setUint16(at + 2, type, true);
    view.setUint32(at + 4, values.length, true);
    const put = long[i] ? beyond : at + 8;
    if (long[i]) view.setUint32(at + 8, beyond, true);
    values.forEach((value, k) => {
      if (type === LONG) view.setUint32(put + k * 4, value, true);
      else if (type === SHORT) view.setUint16(put + k * 2, value, true);
      else view.setUint8(put + k, value);
    });
    beyond += long[i]!;
  });
  return new Uint8Array(view.buffer);
}
