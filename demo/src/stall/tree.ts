// The quince tree and its fallen leaves.
import type { Mesh, Node } from '@gltf-transform/core';
import { type Builder, type V3, randomizer } from '../builder.ts';
import { leaf, merge, tube } from '../shapes.ts';
import type { Quality } from './quality.ts';

export function tree(b: Builder, root: Node, q: Quality): void {
  const t = b.node(root, 'Quince tree', { at: [3.05, 0, 0.2] });
  const r = randomizer(404);
  b.node(
    t,
    'Trunk',
    {},
    b.mesh('Trunk', [
      merge([
        tube(
          [
            [0, -0.1, 0],
            [0.05, 0.9, 0.02],
            [-0.08, 1.8, 0],
            [-0.25, 2.7, 0.1],
          ],
          (k) => 0.13 - 0.08 * k,
          q(24, 6),
          q(24, 4),
        ),
        tube(
          [
            [-0.05, 1.6, 0],
            [0.35, 2.3, 0.2],
            [0.6, 2.9, 0.3],
          ],
          (k) => 0.06 - 0.04 * k,
          q(16, 5),
          q(16, 3),
        ),
        tube(
          [
            [-0.06, 1.9, 0],
            [-0.7, 2.4, 0.35],
            [-1.1, 2.8, 0.6],
          ],
          (k) => 0.055 - 0.04 * k,
          q(16, 5),
          q(16, 3),
        ),
      ]),
      'Bark',
    ]),
  );
  const leaves = b.node(t, 'Leaves');
  const kinds: Mesh[] = ['Leaf', 'Autumn leaf'].map((m) => b.mesh(m, [leaf(q(0.075, 0.15), q(0.13, 0.26)), m]));
  const centres: V3[] = [
    [-0.25, 3, 0.1],
    [0.6, 3.05, 0.3],
    [-1.05, 2.95, 0.6],
    [-0.4, 3.5, 0.2],
    [0.15, 3.3, -0.3],
  ];
  for (let i = 0; i < q(2600, 260); i++) {
    const c = centres[i % 5]!;
    const a = r() * Math.PI * 2;
    const z = r() * 2 - 1;
    const k = 0.62 * Math.cbrt(r());
    const s = Math.sqrt(1 - z * z);
    b.node(
      leaves,
      `Leaf ${i + 1}`,
      {
        at: [c[0] + Math.cos(a) * s * k * 1.2, c[1] + z * k * 0.75, c[2] + Math.sin(a) * s * k * 1.2],
        turn: r() * 360,
        tilt: (r() - 0.3) * 90,
        roll: (r() - 0.5) * 60,
      },
      kinds[r() < 0.4 ? 1 : 0]!,
    );
  }
  const fallen = b.node(root, 'Fallen leaves');
  for (let i = 0; i < q(160, 20); i++)
    b.node(
      fallen,
      `Fallen leaf ${i + 1}`,
      { at: [1.2 + r() * 2.3, q(0.055, 0.09) + r() * 0.02, r() * 3.2 - 0.2], turn: r() * 360, tilt: (r() - 0.5) * 20 },
      kinds[1]!,
    );
}
