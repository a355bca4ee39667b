import { describe, expect, it } from 'vitest';
import { box, panel } from './shapes.ts';
import { Solid, relief } from './solid.ts';

describe('a solid', () => {
  it('holds its shapes where they were placed, with unit normals and triangles that face their way', () => {
    const s = new Solid()
      .add(panel(1, 2), { at: [5, 0, 0], turn: 90 })
      .add(box(1, 1, 1), { at: [0, 3, 0], scale: [2, 1, 1] })
      .shape();
    const { positions: p, normals: n, indices } = s;
    // turned from +Z to +X
    expect([...(n as Float32Array).slice(0, 3)].map((x) => Math.round(x))).toEqual([1, 0, 0]);
    const xs = [...(p as Float32Array)].filter((_, i) => i % 3 === 0);
    expect(Math.min(...xs.slice(4))).toBeCloseTo(-1, 6);
    expect(Math.max(...xs.slice(0, 4))).toBeCloseTo(5, 6);
    expect(Math.max(...(indices as Uint32Array))).toBe(p.length / 3 - 1);
    for (let i = 0; i < indices.length; i += 3) {
      const at = (k: number) => [0, 1, 2].map((c) => p[indices[i + k]! * 3 + c]!);
      const [a, b, c] = [at(0), at(1), at(2)];
      const u = b.map((x, k) => x - a[k]!);
      const v = c.map((x, k) => x - a[k]!);
      const facing = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!];
      const own = [0, 1, 2].map((k) => n[indices[i]! * 3 + k]!);
      expect(facing.reduce((sum, x, k) => sum + x * own[k]!, 0)).toBeGreaterThan(0);
    }
  });

  it('a relief follows its function, and its normals stand upright on it', () => {
    const slope = relief(4, 4, (u, v) => [u, v, u], 1);
    expect(slope.indices.length).toBe(4 * 4 * 6);
    for (let i = 0; i < slope.normals.length; i += 3) {
      expect(slope.normals[i]!).toBeCloseTo(-Math.SQRT1_2, 5);
      expect(slope.normals[i + 2]!).toBeCloseTo(Math.SQRT1_2, 5);
    }
  });
});
