// Cobbles and puddles.
import type { Node } from '@gltf-transform/core';
import { type Builder, randomizer } from '../builder.ts';
import { box, pebble } from '../shapes.ts';
import type { Quality } from './quality.ts';

export function ground(b: Builder, root: Node, q: Quality): void {
  const g = b.node(root, 'Ground');
  const earth = box(40, 0.2, 44, 6);
  b.node(g, 'Wet ground', { at: [0, -0.2, 6] }, b.mesh('Wet ground', [earth, 'Wet ground']));
  const cobbles = b.node(root, 'Cobbles');
  const r = randomizer(11);
  const step = q(0.165, 0.45);
  const half = step * 0.53;
  const kinds = [0, 1, 2].map((k) =>
    b.mesh(`Cobble ${k + 1}`, [
      pebble(half * (0.98 + 0.03 * k), half * 0.5, half * (1.02 - 0.04 * k), 0.62, q(16, 6), q(6, 2), true),
      'Cobble stone',
    ]),
  );
  let n = 0;
  for (let z = -1.2, row = 0; z < 15; z += step, row++)
    for (let x = -3.45 + (row % 2) * step * 0.5; x < 3.5; x += step) {
      if (Math.abs(x) < 1.35 && z < 0.5) continue;
      b.node(
        cobbles,
        `Cobble ${++n}`,
        {
          at: [x + (r() - 0.5) * step * 0.12, -half * 0.18 + (r() - 0.5) * half * 0.12, z + (r() - 0.5) * step * 0.12],
          turn: (r() - 0.5) * 16,
          scale: 0.94 + r() * 0.1,
        },
        kinds[Math.floor(r() * 3)]!,
      );
    }
}
