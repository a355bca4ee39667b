// Counter, posts, shelves, awning.
import type { Node } from '@gltf-transform/core';
import type { Builder, V3 } from '../builder.ts';
import { box, cloth, merge, moved } from '../shapes.ts';
import type { Quality } from './quality.ts';

export function stall(b: Builder, root: Node, q: Quality): void {
  const s = b.node(root, 'Stall');
  const frame = b.node(s, 'Frame');
  const post = b.mesh('Post', [box(0.09, 2.5, 0.09), 'Dark wood']);
  for (const [name, x, z] of [
    ['Post front left', -1.5, 0.55],
    ['Post front right', 1.5, 0.55],
    ['Post back left', -1.5, -0.95],
    ['Post back right', 1.5, -0.95],
  ] as const)
    b.node(frame, name, { at: [x, 0, z] }, post);
  b.node(frame, 'Front beam', { at: [0, 2.42, 0.55] }, b.mesh('Front beam', [box(3.2, 0.1, 0.1), 'Dark wood']));
  b.node(frame, 'Back beam', { at: [0, 2.72, -0.95] }, b.mesh('Back beam', [box(3.2, 0.1, 0.1), 'Dark wood']));
  const boards = b.mesh('Back board', [box(0.3, 2.6, 0.03), 'Old wood']);
  for (let i = 0; i < 10; i++) b.node(frame, `Back board ${i + 1}`, { at: [-1.36 + i * 0.302, 0.05, -0.92] }, boards);
  const counter = b.node(s, 'Counter');
  const plank = b.mesh('Counter plank', [box(3.1, 0.05, 0.205), 'Old wood']);
  const front = b.mesh('Counter board', [box(0.285, 0.86, 0.03), 'Old wood']);
  for (let i = 0; i < 3; i++) b.node(counter, `Plank ${i + 1}`, { at: [0, 0.92, 0.02 + i * 0.21] }, plank);
  for (let i = 0; i < 10; i++) b.node(counter, `Front board ${i + 1}`, { at: [-1.31 + i * 0.291, 0.06, 0.46] }, front);
  b.node(
    counter,
    'Cloth runner',
    { at: [0, 0.972, 0] },
    b.mesh('Cloth runner', [
      cloth(q(40, 6), q(24, 4), (u, v) => {
        const over = Math.max(0, v - 0.62);
        return [
          (u - 0.5) * 0.7,
          0.004 - over * 0.9,
          0.06 + Math.min(v, 0.62) * 0.78 + (over ? 0.012 * Math.sin(u * 22) * over * 4 + 0.012 : 0),
        ];
      }),
      'Bunting teal',
    ]),
  );
  const shelf = b.node(s, 'Shelf');
  for (const [k, y] of [
    [1, 1.42],
    [2, 1.82],
  ] as const)
    b.node(
      shelf,
      `Shelf board ${k}`,
      { at: [0, y, -0.74] },
      b.mesh(`Shelf board ${k}`, [box(2.8, 0.035, 0.3), 'Old wood']),
    );
  const sag = (u: number, v: number): V3 => {
    const drop = v * v * 0.42;
    return [
      (u - 0.5) * 3.7,
      2.86 - v * 0.42 - drop * 0.35 - 0.05 * Math.sin(Math.PI * Math.min(1, v)) * Math.sin(u * Math.PI * 7) ** 2,
      -1.1 + v * 2.2,
    ];
  };
  const awning = b.node(s, 'Awning');
  b.node(awning, 'Awning cloth', {}, b.mesh('Awning cloth', [cloth(q(140, 28), q(60, 8), sag), 'Awning cloth']));
  b.node(
    awning,
    'Awning valance',
    {},
    b.mesh('Awning valance', [
      cloth(q(224, 28), q(10, 2), (u, v) => {
        const [x, y, z] = sag(u, 1);
        const scallop = 0.16 + 0.07 * Math.abs(Math.sin(u * Math.PI * 14));
        return [x, y - v * scallop, z + 0.01 * Math.sin(u * 40) * v];
      }),
      'Awning cloth',
    ]),
  );
  b.node(
    s,
    'Name board',
    { at: [0, 2.46, 0.64], tilt: 4 },
    b.mesh('Name board', [
      merge([box(1.5, 0.3, 0.03), moved(box(1.56, 0.03, 0.05), 0, -0.02, 0), moved(box(1.56, 0.03, 0.05), 0, 0.29, 0)]),
      'Dark wood',
    ]),
  );
  const shutters = b.node(root, 'Shutters');
  const shutter = b.mesh('Shutter', [
    merge([
      box(0.97, 1.42, 0.03),
      moved(box(0.97, 0.07, 0.05), 0, 0.2, 0.01),
      moved(box(0.97, 0.07, 0.05), 0, 1.12, 0.01),
    ]),
    'Old wood',
  ]);
  for (let i = 0; i < 3; i++) b.node(shutters, `Shutter ${i + 1}`, { at: [-0.99 + i * 0.99, 0.98, 0.57] }, shutter);
}
