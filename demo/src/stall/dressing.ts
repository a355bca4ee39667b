// Crates, stools, sacks, bunting, the mirror.
import type { Node } from '@gltf-transform/core';
import { type Builder, type V3, randomizer } from '../builder.ts';
import { box, lathe, merge, moved, panel, pebble, pennant, tube } from '../shapes.ts';
import type { Quality } from './quality.ts';

export function dressing(b: Builder, root: Node, q: Quality): void {
  const d = b.node(root, 'Dressing');
  const r = randomizer(77);
  const bunting = b.node(root, 'Bunting');
  const flags = ['Bunting red', 'Bunting straw', 'Bunting teal'].map((m) =>
    b.mesh(`Pennant, ${m.slice(8)}`, [pennant(0.17, 0.24), m]),
  );
  const lines: [V3, V3][] = [
    [
      [-3.7, 3.3, 1.4],
      [3.7, 3.5, 2.2],
    ],
    [
      [-3.7, 3.5, 3.6],
      [3.7, 3.3, 3.2],
    ],
    [
      [-3.7, 3.4, 6.2],
      [3.7, 3.6, 6.8],
    ],
    [
      [-3.7, 3.6, 9.6],
      [3.7, 3.4, 9.2],
    ],
  ];
  lines.forEach(([a, z], k) => {
    const at = (t: number): V3 => [
      a[0] + (z[0] - a[0]) * t,
      a[1] + (z[1] - a[1]) * t - 0.42 * Math.sin(Math.PI * t),
      a[2] + (z[2] - a[2]) * t,
    ];
    const line = b.node(bunting, `Line ${k + 1}`);
    b.node(
      line,
      'Rope',
      {},
      b.mesh(`Bunting rope ${k + 1}`, [
        tube(
          Array.from({ length: 13 }, (_, i) => at(i / 12)),
          () => 0.008,
          5,
          q(48, 12),
        ),
        'Rope',
      ]),
    );
    for (let i = 1; i < q(30, 14); i++)
      b.node(
        line,
        `Pennant ${i}`,
        {
          at: at(i / q(30, 14)),
          turn: (Math.atan2(-(z[2] - a[2]), z[0] - a[0]) * 180) / Math.PI + (r() - 0.5) * 30,
          tilt: (r() - 0.5) * 24,
        },
        flags[i % 3]!,
      );
  });
  const slats = merge(
    [0, 1, 2]
      .flatMap((i) => [
        moved(box(0.52, 0.09, 0.018), 0, 0.02 + i * 0.12, 0.2),
        moved(box(0.52, 0.09, 0.018), 0, 0.02 + i * 0.12, -0.2),
        moved(box(0.018, 0.09, 0.4), 0.26, 0.02 + i * 0.12, 0),
        moved(box(0.018, 0.09, 0.4), -0.26, 0.02 + i * 0.12, 0),
      ])
      .concat([moved(box(0.5, 0.015, 0.38), 0, 0.02, 0)]),
  );
  const crate = b.mesh('Crate', [slats, 'Old wood']);
  const crates = b.node(d, 'Crates');
  for (const [i, at, turn] of [
    [1, [-1.95, 0.02, 0.7], 12],
    [2, [-1.9, 0.4, 0.68], -9],
    [3, [-2.5, 0.02, 0.4], 40],
    [4, [2.05, 0.02, 0.5], -20],
  ] as const)
    b.node(crates, `Crate ${i}`, { at, turn }, crate);
  const pear = b.mesh('Quince', [pebble(0.055, 0.062, 0.055, 1, q(28, 6), q(20, 4)), 'Bunting straw']);
  const fruit = b.node(d, 'Quinces');
  for (let i = 0; i < 14; i++)
    b.node(
      fruit,
      `Quince ${i + 1}`,
      {
        at: [-1.9 + (r() - 0.5) * 0.38, 0.79 + (i > 9 ? 0.08 : 0) + r() * 0.02, 0.68 + (r() - 0.5) * 0.26],
        turn: r() * 360,
        tilt: r() * 70,
      },
      pear,
    );
  const stool = b.mesh('Stool', [
    merge([
      moved(
        lathe(
          [
            [0, 0],
            [0.17, 0],
            [0.18, 0.015],
            [0.17, 0.03],
            [0, 0.032],
          ],
          q(48, 10),
          q(10, 4),
        ),
        0,
        0.42,
        0,
      ),
      ...[0, 1, 2].map((k) =>
        tube(
          [
            [Math.cos(k * 2.09) * 0.17, 0, Math.sin(k * 2.09) * 0.17],
            [Math.cos(k * 2.09) * 0.1, 0.43, Math.sin(k * 2.09) * 0.1],
          ],
          () => 0.018,
          q(12, 5),
          2,
        ),
      ),
    ]),
    'Dark wood',
  ]);
  const stools = b.node(d, 'Stools');
  for (const [i, at] of [
    [1, [0.7, 0.02, 1.35]],
    [2, [-0.55, 0.02, 1.5]],
    [3, [1.75, 0.02, 1.7]],
  ] as const)
    b.node(stools, `Stool ${i}`, { at }, stool);
  const sack = b.mesh('Sack', [pebble(0.27, 0.34, 0.24, 0.75, q(48, 8), q(32, 6)), 'Sackcloth']);
  const sacks = b.node(d, 'Sacks');
  for (const [i, at, turn] of [
    [1, [2.1, 0.28, -0.25], 0],
    [2, [2.5, 0.28, 0.1], 50],
    [3, [2.3, 0.72, -0.15], 20],
  ] as const)
    b.node(sacks, `Sack ${i}`, { at, turn, tilt: i * 5 }, sack);
  const mirror = b.node(root, 'Mirror', { at: [-2.75, 0.04, -0.55], turn: 38, tilt: -7 });
  b.node(mirror, 'Mirror glass', { at: [0, 0.06, 0.022] }, b.mesh('Mirror glass', [panel(0.78, 1.62), 'Mirror']));
  b.node(
    mirror,
    'Mirror frame',
    {},
    b.mesh('Mirror frame', [
      merge([
        moved(box(0.92, 0.08, 0.05), 0, 0, 0),
        moved(box(0.92, 0.08, 0.05), 0, 1.66, 0),
        moved(box(0.08, 1.6, 0.05), -0.42, 0.06, 0),
        moved(box(0.08, 1.6, 0.05), 0.42, 0.06, 0),
        moved(box(0.84, 1.66, 0.015), 0, 0.04, -0.01),
      ]),
      'Dark wood',
    ]),
  );
}
