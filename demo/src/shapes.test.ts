// Glass with a volume and single-sided surfaces depend on which way a solid faces.
import { describe, expect, it } from 'vitest';
import { type Shape, box, gable, lathe, pebble, roofTile, tube } from './shapes.ts';

const corner = (s: Shape, from: readonly number[], i: number) =>
  [0, 1, 2].map((k) => from[s.indices[i]! * 3 + k]!) as [number, number, number];
const cross = (a: readonly number[], b: readonly number[]) => [
  a[1]! * b[2]! - a[2]! * b[1]!,
  a[2]! * b[0]! - a[0]! * b[2]!,
  a[0]! * b[1]! - a[1]! * b[0]!,
];
const dot = (a: readonly number[], b: readonly number[]) => a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!;

describe('solids', () => {
  it.each<[string, Shape, number]>([
    [
      'lathe',
      lathe(
        [
          [0.5, 0],
          [0.5, 1],
        ],
        96,
        4,
      ),
      Math.PI / 4,
    ],
    [
      'tube',
      tube(
        [
          [0, 0, 0],
          [0, 1, 0],
        ],
        () => 0.5,
        96,
        4,
      ),
      Math.PI / 4,
    ],
    [
      'tube that turns',
      tube(
        [
          [0, 0, 0],
          [0, 1, 0],
          [0.3, 2, 0.4],
        ],
        () => 0.1,
        48,
        16,
      ),
      0.066,
    ],
    ['pebble', pebble(1, 1, 1, 1, 96, 48), (Math.PI * 4) / 3],
    ['box', box(1, 2, 3), 6],
    ['gable', gable(2, 1, 3), 3],
    ['roof tile', roofTile(1, 1, 24), 0.055],
  ])('%s: their triangles and normals face outwards', (_name, s, volume) => {
    let enclosed = 0;
    let agree = 0;
    let count = 0; // divergence theorem; open ends through the origin, or small, take nothing away
    for (let i = 0; i < s.indices.length; i += 3) {
      const [a, b, c] = [corner(s, s.positions, i), corner(s, s.positions, i + 1), corner(s, s.positions, i + 2)];
      const n = cross([b[0] - a[0], b[1] - a[1], b[2] - a[2]], [c[0] - a[0], c[1] - a[1], c[2] - a[2]]);
      enclosed += dot(a, cross(b, c)) / 6;
      if (Math.hypot(...n) < 1e-9) continue;
      count++;
      if (dot(n, corner(s, s.normals, i)) > 0) agree++;
    }
    expect(enclosed).toBeGreaterThan(0.6 * volume);
    expect(agree / count).toBeGreaterThan(0.95); // where a tube bends, normals by differences lie a little off
  });
});
