import { zlibSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { encodeExr } from './encodeExr.ts';
import { exrBlockData, exrFiltered, exrScanLines } from './exrBlocks.ts';
import type { ExrImage } from './exrImage.ts';
import { writeExr } from './writeExr.ts';

const WIDTH = 7;
const HEIGHT = 100;
const plane = Float32Array.from({ length: WIDTH * HEIGHT * 3 }, (_, i) => Math.sin(i * i) * 40);
const image: ExrImage = {
  width: WIDTH,
  height: HEIGHT,
  within: { left: 3, top: 5, width: 20, height: 200 },
  channels: ['R', 'G', 'B'].map((name, offset) => ({
    name,
    type: offset ? 'half' : 'float',
    data: plane,
    stride: 3,
    offset,
  })),
  metadata: { note: 'stall' },
};
const pack = (filtered: Uint8Array) => zlibSync(filtered);

function sinkInto(file: number[], late: (block: number) => number, blocksAtOnce: number) {
  let block = 0;
  let atWork = 0;
  const most = { atWork: 0 };
  return {
    most,
    blocksAtOnce,
    pack: async (lines: Uint8Array) => {
      most.atWork = Math.max(most.atWork, ++atWork);
      await new Promise((done) => setTimeout(done, late(block++)));
      atWork--;
      return pack(lines);
    },
    write: (bytes: Uint8Array, at: number) => {
      bytes.forEach((x, i) => (file[at + i] = x));
      return Promise.resolve();
    },
  };
}

describe('an OpenEXR file written piece by piece', () => {
  it.each([
    ['first blocks late', (block: number) => 20 - block * 2],
    ['last blocks late', (block: number) => block * 2],
    ['one in the middle late', (block: number) => (block === 3 ? 20 : 0)],
  ])('is the file written at once, whatever is packed first (%s)', async (_, late) => {
    const file: number[] = [];
    const sink = sinkInto(file, late, 3);
    const size = await encodeExr(image, sink);
    expect(Uint8Array.from(file)).toEqual(writeExr(image));
    expect(size).toBe(file.length);
    expect(sink.most.atWork).toBe(3); // side by side, and no more than asked for
  });

  it('holds channels out of the planes they lie in', () => {
    const apart = [0, 1, 2].map((c) => plane.filter((_, i) => i % 3 === c));
    const copied = { ...image, channels: image.channels.map(({ name, type }, c) => ({ name, type, data: apart[c]! })) };
    expect(writeExr(image)).toEqual(writeExr(copied));
  });

  it('ends with the fault of a thread or of the disk, when nothing of it is at work any more', async () => {
    let atWork = 0;
    const slow = async (lines: Uint8Array) => {
      atWork++;
      await new Promise((done) => setTimeout(done, 5 * atWork));
      atWork--;
      return pack(lines);
    };
    const full = encodeExr(image, { pack: slow, write: () => Promise.reject(new Error('no room')), blocksAtOnce: 4 });
    await expect(full).rejects.toThrow('no room');
    expect(atWork).toBe(0);
    const lost = encodeExr(image, {
      pack: () => Promise.reject(new Error('thread ended')),
      write: () => Promise.resolve(),
      blocksAtOnce: 4,
    });
    await expect(lost).rejects.toThrow('thread ended');
  });

  it('can be stopped', async () => {
    const stop = new AbortController();
    const writing = encodeExr(
      image,
      {
        pack: (lines) => Promise.resolve(pack(lines)),
        write: () => Promise.resolve(stop.abort(new Error('stopped'))),
        blocksAtOnce: 1,
      },
      stop.signal,
    );
    await expect(writing).rejects.toThrow('stopped');
  });

  it('refuses a channel that does not reach to the last pixel', () => {
    const short = { name: 'R', type: 'half' as const, data: plane.subarray(0, plane.length - 3), stride: 3 };
    expect(() => writeExr({ ...image, channels: [short] })).toThrow(/R has 699 values for 700 pixels/);
  });

  it.each([1, 2, 7, 64, 333])('has blocks %i pixels wide that are undone as the format says, to the byte', (width) => {
    const data = Float32Array.from({ length: width * 3 }, (_, i) => Math.sin(i * i) * 10 ** (i % 7) - 3);
    const types = ['half', 'float', 'float', 'half'] as const;
    const channels = types.map((type, k) => ({
      name: `c${k}`,
      type,
      data: Float32Array.from(data, (v) => v * (k + 1)),
    }));
    const of = { width, height: 3, channels };
    const lines = exrScanLines(of, 0);
    const stored = exrFiltered(of, 0);
    // as OpenEXR's own reader does: sums, then the halves laid between each other
    for (let i = 1; i < stored.length; i++) stored[i] = stored[i - 1]! + stored[i]! - 128;
    const half = stored.length / 2;
    expect(Array.from(stored, (_, i) => stored[i % 2 ? half + (i >> 1) : i >> 1])).toEqual([...lines]);
    // what does not shrink is stored as it is
    expect(exrBlockData(of, 0, new Uint8Array(lines.length))).toEqual(lines);
    expect(exrBlockData(of, 0, new Uint8Array(lines.length - 1))).toHaveLength(lines.length - 1);
  });
});
