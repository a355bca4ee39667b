import { execFile } from 'node:child_process';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
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

/** The same picture, its rows stored from the last to the first. */
function upsideDown(bytes: Uint8Array): Uint8Array {
  const out = bytes.slice();
  const view = new DataView(out.buffer);
  const lineOrder = 'lineOrder\0lineOrder\0';
  const at = Buffer.from(out).indexOf(lineOrder) + lineOrder.length;
  out[at + 4] = 1;
  let table = out.length;
  const offsets: number[] = [];
  const source = new DataView(bytes.buffer, bytes.byteOffset);
  // the table stands right before the first chunk, which is the one that its first entry names
  for (let k = at; k + 8 <= out.length; k++) {
    const offset = Number(source.getBigUint64(k, true));
    if (offset > k && offset < out.length && (offset - k) % 8 === 0 && source.getInt32(offset, true) === 0) {
      table = k;
      for (let i = k; i < offset; i += 8) offsets.push(Number(source.getBigUint64(i, true)));
      break;
    }
  }
  let to = table + offsets.length * 8;
  for (const [i, offset] of [...offsets.entries()].reverse()) {
    const end = offset + 8 + source.getUint32(offset + 4, true);
    out.set(bytes.subarray(offset, end), to);
    view.setBigUint64(table + i * 8, BigInt(to), true);
    to += end - offset;
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
  it('in Radiance HDR has a mantissa’s share of 256', () => {
    const head = new TextEncoder().encode('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 1 +X 2\n');
    const { map } = importEnvironment('sky.hdr', new Uint8Array([...head, 128, 64, 32, 129, 255, 0, 0, 136]));
    expect([...map.data]).toEqual([1, 0.5, 0.25, 255, 0, 0]);
  });
  it('in Radiance HDR of CIE XYZ becomes Rec. 709, white stays white, and the remark says so', () => {
    const head = new TextEncoder().encode('#?RADIANCE\nFORMAT=32-bit_rle_xyze\n\n-Y 1 +X 2\n');
    const { map, remarks } = importEnvironment(
      'sky.hdr',
      new Uint8Array([...head, 128, 128, 128, 129, 0, 128, 0, 129]),
    );
    for (const c of [0, 1, 2]) expect(map.data[c]).toBeCloseTo(1, 3);
    expect(map.data[4]!).toBeGreaterThan(1); // XYZ (0, 1, 0) is a green that no display has
    expect([map.data[3], map.data[5]]).toEqual([0, 0]);
    expect(remarks).toEqual([expect.stringMatching(/CIE XYZ/)]);
  });
  it('in Radiance HDR that is cut short anywhere is refused, flat or run length encoded', () => {
    const head = new TextEncoder().encode(`#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 4 +X 8\n`);
    const row = [2, 2, 0, 8, ...[10, 20, 30, 129].flatMap((v) => [128 + 6, v, 2, v, v])];
    const runs = new Uint8Array([...head, ...row, ...row, ...row, ...row]);
    for (const whole of [runs, hdr()]) {
      expect(importEnvironment('sky.hdr', whole).map.width).toBe(8);
      for (let n = head.length + 1; n < whole.length; n++)
        expect(() => importEnvironment('sky.hdr', whole.subarray(0, n))).toThrow(/cut short or damaged/);
    }
  });
  it('in OpenEXR with rows from the bottom up is read the right way up', () => {
    // high enough for several blocks of rows
    const [width, height] = [128, 64];
    const data = Float32Array.from({ length: width * height }, (_, i) => i);
    const channels = ['R', 'G', 'B'].map((name) => ({ name, type: 'float' as const, data }));
    const bytes = writeExr({ width, height, channels });
    const turned = upsideDown(bytes);
    expect(turned.slice(-200)).not.toEqual(bytes.slice(-200));
    expect(importEnvironment('sky.exr', turned).map.data).toEqual(importEnvironment('sky.exr', bytes).map.data);
    expect(() => importEnvironment('sky.exr', turned.slice(0, -9))).toThrow(/cut short or damaged/);
  });
  it('in OpenEXR of several parts is the first with colours', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'variscen-exr-'));
    try {
      const depth = { width: W, height: H, channels: [{ name: 'Z', type: 'float' as const, data: plane(2) }] };
      await writeFile(join(folder, 'depth.exr'), writeExr(depth));
      await writeFile(join(folder, 'colour.exr'), exr());
      const args = [
        '-combine',
        '-i',
        join(folder, 'depth.exr'),
        join(folder, 'colour.exr'),
        '-o',
        join(folder, 'both.exr'),
      ];
      await promisify(execFile)('exrmultipart', args);
      const both = new Uint8Array(await readFile(join(folder, 'both.exr')));
      expect(importEnvironment('sky.exr', both).map.data).toEqual(importEnvironment('sky.exr', exr()).map.data);
      for (const n of [both.length - 9, both.length >> 1, 400])
        expect(() => importEnvironment('sky.exr', both.subarray(0, n))).toThrow(/cut short or damaged/);
    } finally {
      await rm(folder, { recursive: true });
    }
  });
  it('in OpenEXR compressed with DWA beside another layer or depth is refused with the remedy', () => {
    for (const other of ['haze.R', 'Z']) {
      const bytes = writeExr({
        width: W,
        height: H,
        channels: ['B', 'G', 'R', other].map((name) => ({ name, type: 'half' as const, data: plane(0) })),
      });
      bytes[Buffer.from(bytes).indexOf('compression\0compression\0') + 28] = 8;
      expect(() => importEnvironment('sky.exr', bytes)).toThrow(
        /compressed with DWA and holds .*Save it with ZIP or PIZ/,
      );
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
    ['a torn HDR', () => hdr().slice(0, 60), /cut short or damaged/],
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
