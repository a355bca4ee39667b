// Lanterns on their lines.
import type { Node } from '@gltf-transform/core';
import type { Builder, V3 } from '../builder.ts';
import { lathe, merge, moved, tube } from '../shapes.ts';
import type { Quality } from './quality.ts';
import { LANTERN } from './lantern.ts';

export function lanterns(b: Builder, root: Node, q: Quality): void {
  const group = b.node(root, 'Lanterns');
  const s = 0.17;
  const ribs = Array.from({ length: 15 }, (_, i): [number, number] => {
    const t = i / 14;
    const a = (t - 0.5) * Math.PI * 0.86;
    return [s * Math.cos(a) * (1 + (i % 2 ? 0.035 : 0)), s * 0.95 * Math.sin(a) * 1.05];
  });
  const shell = lathe(ribs, q(48, 8), q(42, 7));
  const ring = lathe(
    [
      [0.055, -0.02],
      [0.062, -0.02],
      [0.062, 0.02],
      [0.055, 0.02],
    ],
    q(32, 6),
    q(6, 3),
  );
  const mesh = b.mesh(
    'Lantern',
    [shell, 'Lantern paper'],
    [
      merge([
        moved(ring, 0, 0.17, 0),
        moved(ring, 0, -0.17, 0),
        moved(
          tube(
            [
              [0, 0, 0],
              [0, 0.42, 0],
            ],
            () => 0.006,
            5,
            1,
          ),
          0,
          0.17,
          0,
        ),
      ]),
      'Cast iron',
    ],
  );
  const spots: V3[] = [
    [-1.18, 2.02, 0.72],
    [1.18, 2.02, 0.72],
    [-0.42, 2.08, 0.86],
    [0.46, 2.1, 0.86],
    [-2.6, 2.6, 1.9],
    [2.5, 2.65, 2.3],
    [-2.4, 2.8, 4.6],
    [2.55, 2.7, 5.2],
    [-2.5, 2.75, 7.6],
    [2.4, 2.85, 8.2],
    [-2.4, 2.7, 10.8],
    [2.5, 2.8, 11.4],
    [0.1, 3.1, 13.4],
    [-0.9, 2.05, -0.45],
  ];
  spots.forEach((at, i) => {
    const holder = b.node(group, `Lantern ${i + 1}`, { at, turn: i * 37, scale: i < 4 ? 0.86 : 1 });
    b.node(holder, 'Paper', {}, mesh);
    b.point(holder, 'Flame', [0, -0.235, 0], i < 4 ? 1.5 : 2.2, LANTERN, 0.05);
  });
}
