// What stands on the counter and the shelves.
import type { Node } from '@gltf-transform/core';
import { type Builder, type V3, randomizer } from '../builder.ts';
import { lathe, merge, moved } from '../shapes.ts';
import type { Quality } from './quality.ts';
import { kettle } from './kettle.ts';

export function ware(b: Builder, root: Node, q: Quality): void {
  const w = b.node(root, 'Ware');
  const top = 0.97;
  const r = randomizer(5);
  const kettles: [string, string, number, V3, number][] = [
    ['Kettle, large', 'Copper', 0.155, [0.08, top, 0.22], -24],
    ['Kettle, tall', 'Cast iron', 0.12, [-0.62, top, 0.14], 200],
    ['Kettle, small', 'Celadon', 0.1, [0.66, top, 0.28], 12],
  ];
  for (const [name, material, size, at, turn] of kettles)
    b.node(w, name, { at, turn }, b.mesh(name, [merge(kettle(q, size)), material]));
  const cup = lathe(
    [
      [0, 0],
      [0.022, 0],
      [0.024, 0.008],
      [0.036, 0.03],
      [0.042, 0.066],
      [0.0425, 0.07],
      [0.039, 0.066],
      [0.033, 0.03],
      [0.02, 0.012],
      [0, 0.01],
    ],
    q(48, 8),
    q(28, 9),
  );
  const tea = moved(
    lathe(
      [
        [0, 0],
        [0.0375, 0.0005],
      ],
      q(32, 8),
      1,
    ),
    0,
    0.055,
    0,
  );
  const cupMesh = b.mesh('Cup', [cup, 'Cream glaze']);
  const fullCup = b.mesh('Cup of tea', [cup, 'Cream glaze'], [tea, 'Tea']);
  const cups = b.node(w, 'Cups');
  const places: V3[] = [
    [0.33, top, 0.37],
    [0.42, top, 0.29],
    [-0.18, top, 0.37],
    [-0.29, top, 0.33],
    [0.24, top, 0.1],
    [0.9, top, 0.38],
    [1.0, top, 0.3],
    [-0.95, top, 0.36],
    [-1.06, top, 0.3],
    [-0.4, top, 0.4],
  ];
  places.forEach((at, i) => b.node(cups, `Cup ${i + 1}`, { at, turn: r() * 360 }, i % 3 === 2 ? cupMesh : fullCup));
  for (let i = 0; i < 8; i++)
    b.node(cups, `Stacked cup ${i + 1}`, { at: [1.22, top + i * 0.026, 0.12], turn: r() * 360 }, cupMesh);
  b.node(
    w,
    'Brass tray',
    { at: [-0.98, top, 0.33] },
    b.mesh('Brass tray', [
      lathe(
        [
          [0, 0.004],
          [0.2, 0.004],
          [0.225, 0.022],
          [0.232, 0.022],
          [0.21, 0],
          [0, 0],
        ],
        q(72, 14),
        q(18, 5),
      ),
      'Brass',
    ]),
  );
  const bowl = b.mesh('Bowl', [
    lathe(
      [
        [0, 0],
        [0.035, 0],
        [0.05, 0.014],
        [0.085, 0.05],
        [0.098, 0.075],
        [0.094, 0.075],
        [0.078, 0.048],
        [0.04, 0.016],
        [0, 0.012],
      ],
      q(64, 10),
      q(26, 8),
    ),
    'Celadon',
  ]);
  for (let i = 0; i < 4; i++) b.node(w, `Bowl ${i + 1}`, { at: [-1.28, top + i * 0.022, 0.16], turn: i * 40 }, bowl);
  const canisters = b.node(w, 'Canisters');
  const canister = (material: string) =>
    b.mesh(
      `Canister, ${material.toLowerCase()}`,
      [
        lathe(
          [
            [0, 0],
            [0.068, 0],
            [0.073, 0.006],
            [0.073, 0.16],
            [0.07, 0.165],
          ],
          q(48, 9),
          q(10, 4),
        ),
        material,
      ],
      [
        moved(
          lathe(
            [
              [0.074, 0],
              [0.075, 0.03],
              [0.06, 0.04],
              [0.018, 0.044],
              [0.014, 0.055],
              [0.018, 0.064],
              [0, 0.068],
            ],
            q(48, 9),
            q(16, 5),
          ),
          0,
          0.165,
          0,
        ),
        'Brass',
      ],
    );
  const kinds = ['Indigo enamel', 'Cream glaze', 'Celadon', 'Copper'].map(canister);
  for (let i = 0; i < 13; i++)
    b.node(
      canisters,
      `Canister ${i + 1}`,
      { at: [-1.26 + i * 0.21, 1.855, -0.74], turn: r() * 360 },
      kinds[(i * 7) % 4]!,
    );
  const jars = b.node(w, 'Jars');
  const jar = b.mesh(
    'Jar',
    [
      lathe(
        [
          [0, 0],
          [0.07, 0],
          [0.08, 0.012],
          [0.082, 0.14],
          [0.07, 0.18],
          [0.06, 0.19],
          [0.056, 0.19],
          [0.064, 0.176],
          [0.075, 0.138],
          [0.073, 0.02],
          [0, 0.016],
        ],
        q(64, 10),
        q(44, 10),
      ),
      'Jar glass',
    ],
    [
      moved(
        lathe(
          [
            [0, 0],
            [0.064, 0.002],
            [0.068, 0.02],
            [0.068, 0.09],
            [0.04, 0.104],
            [0, 0.108],
          ],
          q(40, 8),
          q(16, 5),
        ),
        0,
        0.02,
        0,
      ),
      'Tea leaves',
    ],
    [
      moved(
        lathe(
          [
            [0, 0],
            [0.064, 0],
            [0.066, 0.024],
            [0, 0.03],
          ],
          q(40, 8),
          q(6, 3),
        ),
        0,
        0.191,
        0,
      ),
      'Old wood',
    ],
  );
  for (let i = 0; i < 11; i++)
    b.node(jars, `Jar ${i + 1}`, { at: [-1.2 + i * 0.24, 1.455, -0.72], turn: r() * 360 }, jar);
  b.node(jars, 'Jar on the counter', { at: [-0.16, top, 0.1], scale: 1.15 }, jar);
}
