import { describe, expect, it } from 'vitest';
import { hostBytes, mixingBytes, sumOf } from '../host/hostMemory.ts';
import { settings } from './fixtures.ts';

const bytes = { vertices: 0, acceleration: 0, textures: 0, lights: 0, film: 0, scratch: 0 };

describe('memory beside the kernel', () => {
  it('of large maps in a small picture is the copy that is packed, less what is not in use meanwhile', () => {
    const large = { ...bytes, vertices: 900e6, textures: 600e6, lights: 500e6, film: 20e6, scratch: 10e6 };
    expect(hostBytes(large, 100_000)).toBe(470e6);
  });
  it('of a small scene in a large picture is what the picture is finished in, and grows with it', () => {
    const small = { ...bytes, vertices: 2e6, film: 500e6 };
    expect(hostBytes(small, 2e6)).toBeGreaterThan(hostBytes(small, 1e6));
    expect(hostBytes(small, 2e6) / 2e6).toBeLessThan(200); // far from a copy of every layer
  });
  it('is never less than nothing, and a sum leaves no kind out', () => {
    expect(hostBytes({ ...bytes, film: 1e9 }, 0)).toBe(0);
    expect(sumOf({ vertices: 1, acceleration: 2, textures: 4, lights: 8, film: 16, scratch: 32 })).toBe(63);
  });
  it('of several lightings is what they are mixed in, and of a part of a film copies of its planes', () => {
    const of = (more: object) => mixingBytes({ ...settings(100), ...more }, 1e6);
    const parts = { of: [null, null], mixes: [[1, 1, 1, 1, 1, 1]] };
    const part = { noise: { threshold: 0.1, floorNits: 1 }, region: { left: 10, top: 10, widthPx: 20, heightPx: 20 } };
    expect(of({ denoise: true })).toBe(0);
    const plain = of({ parts });
    expect(plain).toBeGreaterThan(0);
    expect(of({ parts, planes: ['depth'], lightGroups: 2 })).toBe(plain);
    const cut = of({ parts, ...part });
    expect(cut).toBeGreaterThan(plain);
    expect(of({ parts, ...part, planes: ['depth'] }) - cut).toBe(4e6);
  });
});
