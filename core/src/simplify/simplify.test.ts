// Meshes with fewer triangles: how far off, how much of them stays, and what is left as it is.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Geometry } from '../scene/index.ts';
import { simplified } from './simplify.ts';

/** A ball of radius 1 m with texture coordinates. */
function ball(rows: number): Geometry {
  const positions: number[] = [];
  const uv0: number[] = [];
  const indices: number[] = [];
  for (let j = 0; j <= rows; j++)
    for (let i = 0; i <= rows; i++) {
      const [t, f] = [(Math.PI * j) / rows, (2 * Math.PI * i) / rows];
      positions.push(Math.sin(t) * Math.cos(f), Math.cos(t), Math.sin(t) * Math.sin(f));
      uv0.push(i / rows, j / rows);
    }
  for (let j = 0; j < rows; j++)
    for (let i = 0; i < rows; i++) {
      const a = j * (rows + 1) + i;
      indices.push(a, a + 1, a + rows + 1, a + 1, a + rows + 2, a + rows + 1);
    }
  return {
    positions: Float32Array.from(positions),
    normals: Float32Array.from(positions),
    uv0: Float32Array.from(uv0),
    indices: Uint32Array.from(indices),
  };
}
const triangles = (g: Geometry): number => g.indices.length / 3;
/** The farthest that the middle of any triangle is from the ball's surface. */
function farthestOff({ positions: p, indices }: Geometry): number {
  let most = 0;
  for (let i = 0; i < indices.length; i += 3) {
    const middle = [0, 1, 2].map((k) => [0, 1, 2].reduce((s, c) => s + p[indices[i + c]! * 3 + k]!, 0) / 3);
    most = Math.max(most, Math.abs(1 - Math.hypot(...middle)));
  }
  return most;
}

describe('a simplified mesh', () => {
  it('has the fewer triangles the farther off it may be, and is not farther off', async () => {
    const whole = ball(80);
    let before = triangles(whole);
    for (const tolerance of [0.001, 0.01, 0.03]) {
      const made = await simplified(whole, tolerance);
      expect(triangles(made)).toBeLessThan(before);
      // the measure is of planes, and a triangle's middle may be a little farther from the ball
      expect(farthestOff(made)).toBeLessThan(tolerance * 3);
      before = triangles(made);
    }
  });

  it('has corners of the mesh with what belongs to them, and no others', async () => {
    const whole = ball(40);
    const made = await simplified(whole, 0.02);
    const corners = new Map<string, number>();
    for (let i = 0; i < whole.uv0!.length / 2; i++) corners.set(whole.uv0!.slice(i * 2, i * 2 + 2).join(), i);
    const count = made.positions.length / 3;
    expect(made.uv0).toHaveLength(count * 2);
    expect(made.normals).toHaveLength(count * 3);
    expect(made.uv1).toBeUndefined();
    for (let i = 0; i < count; i++) {
      const from = corners.get(made.uv0!.slice(i * 2, i * 2 + 2).join())!;
      expect([...made.positions.slice(i * 3, i * 3 + 3)]).toEqual([...whole.positions.slice(from * 3, from * 3 + 3)]);
    }
    expect(new Set(made.indices)).toEqual(new Set(Array.from({ length: count }, (_, i) => i)));
  });

  it('keeps its surface: leaves that are smaller than the tolerance do not vanish', async () => {
    const leaf = (x: number): number[] => [x, 0, 0, x + 0.04, 0, 0, x + 0.04, 0.04, 0, x, 0.04, 0];
    const leaves: Geometry = {
      positions: Float32Array.from(Array.from({ length: 300 }, (_, i) => leaf(i * 0.1)).flat()),
      indices: Uint32Array.from(Array.from({ length: 300 }, (_, i) => [0, 1, 2, 0, 2, 3].map((k) => i * 4 + k)).flat()),
    };
    expect(triangles(await simplified(leaves, 0.5))).toBe(600);
  });

  it('is the same whenever it is made, with no tolerance that breaks it', async () => {
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 3, max: 20 }), fc.integer({ min: -20, max: 12 }), async (rows, exponent) => {
        const whole = ball(rows);
        const made = await simplified(whole, 2 ** exponent);
        expect(made).toEqual(await simplified(whole, 2 ** exponent));
        expect(triangles(made)).toBeGreaterThan(0);
        expect(triangles(made)).toBeLessThanOrEqual(triangles(whole));
      }),
      { numRuns: 40 },
    );
  });
});
