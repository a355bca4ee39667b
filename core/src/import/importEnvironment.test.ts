import { describe, expect, it } from 'vitest';
import { parseSky, skyValue, smallerMap, unpackMap, packMap } from '../environment/index.ts';
import { writeExr } from '../image/index.ts';
import { importEnvironment } from './importEnvironment.ts';

/** Red grows to the right, green downwards, blue is 3 nits; one texel is a sun. */
const W = 8;
const H = 4;
const value = (x: number, y: number, c: number) => (x === 6 && y === 1 ? 900 : [x / W, y / H, 3][c]!);
const plane = (c: number) => Float32Array.from({ length: W * H }, (_, i) => value(i % W, Math.floor(i / W), c));
const exr = () =>
  writeExr({
    width: W,
    height: H,
    channels: ['R', 'G', 'B'].map((name, c) => ({ name, type: 'float' as const, data: plane(c) })),
  });
/** Flat Radiance pixels: a mantissa of 8 bits a channel and one exponent. */
function hdr(): Uint8Array {
  const head = new TextEncoder().encode(`#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y ${H} +X ${W}\n`);
  const out = new Uint8Array(head.length + W * H * 4);
  out.set(head);
  for (let i = 0; i < W * H; i++) {
    const v = [0, 1, 2].map((c) => value(i % W, Math.floor(i / W), c));
    const e = Math.ceil(Math.log2(Math.max(...v) + 1e-9));
    const k = 256 / 2 ** e;
    out.set([...v.map((x) => Math.min(255, Math.floor(x * k))), e + 128], head.length + i * 4);
  }
  return out;
}

describe('an environment map', () => {
  it.each([
    ['OpenEXR', exr, 1e-6],
    ['Radiance HDR', hdr, 0.02],
  ] as const)('in %s is read the right way up, in its own units', (_name, make, tolerance) => {
    const { map, remarks } = importEnvironment('sky', make());
    expect([map.width, map.height, remarks]).toEqual([W, H, []]);
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++)
        for (let c = 0; c < 3; c++) {
          const v = value(x, y, c);
          expect(Math.abs(map.data[(y * W + x) * 3 + c]! - v)).toBeLessThanOrEqual(tolerance * Math.max(3, v));
        }
  });
  it('is brought to a size that a machine can hold, with the same light', () => {
    const big = { width: 10, height: 5, data: Float32Array.from({ length: 150 }, (_, i) => (i * 7919) % 13) };
    const small = smallerMap(big, 2);
    const mean = (d: Float32Array) => d.reduce((s, x) => s + x, 0) / d.length;
    expect([small.width, small.height]).toEqual([4, 2]);
    expect(mean(small.data)).toBeCloseTo(mean(big.data), 5);
    expect(smallerMap(big, 5)).toBe(big);
  });
  it('has values that are no light set to black, and says so', () => {
    const data = plane(0);
    data[3] = NaN;
    data[4] = -2;
    const { map, remarks } = importEnvironment(
      'sky.exr',
      writeExr({
        width: W,
        height: H,
        channels: ['R', 'G', 'B'].map((name) => ({ name, type: 'float' as const, data })),
      }),
    );
    expect(map.data.every((x) => x >= 0)).toBe(true);
    expect(remarks).toEqual([expect.stringMatching(/^6 values of “sky.exr”/)]);
  });
  it.each([
    ['another format', () => new TextEncoder().encode('PNG'), /neither a Radiance HDR nor/],
    ['a torn file', () => exr().slice(0, -9), /cut short or damaged/],
    ['a torn header', () => exr().slice(0, 90), /cut short or damaged/],
    ['a torn HDR', () => hdr().slice(0, 60), /could not be read|cannot be read/],
    [
      'a square',
      () => writeExr({ width: 4, height: 4, channels: [{ name: 'Y', type: 'float', data: new Float32Array(16) }] }),
      /twice as wide|could not be read/,
    ],
  ])('refuses %s by name', (_what, make, message) => {
    expect(() => importEnvironment('sky.exr', make())).toThrow(message);
    expect(() => importEnvironment('sky.exr', make())).toThrow('sky.exr');
  });
  it('is referred to by all that a plan needs', () => {
    const sky = { hash: 'a'.repeat(64), width: 2048, height: 1024, name: 'evening: lane.hdr' };
    expect(parseSky(skyValue(sky))).toEqual(sky);
    for (const other of ['dusk', 'map:zz', 3, undefined, `map:${'a'.repeat(64)}:2048:x`])
      expect(parseSky(other)).toBeUndefined();
    const map = { width: 2, height: 1, data: new Float32Array([1, 2, 3, 4, 5, 6]) };
    expect(unpackMap(packMap(map), { ...sky, width: 2, height: 1 }).data).toEqual(map.data);
    expect(() => unpackMap(packMap(map), sky)).toThrow('damaged');
  });
});
