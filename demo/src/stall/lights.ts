// Lights beside those that glow.
import type { Node } from '@gltf-transform/core';
import type { Builder } from '../builder.ts';

export function lights(b: Builder, root: Node): void {
  const l = b.node(root, 'Lights');
  b.spot(l, 'Counter lamp', [0.05, 2.36, 0.5], [0.02, 0.97, 0.2], 6.5, [1, 0.72, 0.42], 42, 0.06);
  b.sun(l, 'Evening sun', [0.75, -0.42, -0.8], 0.9, [1, 0.66, 0.4]);
  b.rectangle(l, 'Photographer’s panel', [-1.6, 2.3, 3.1], [0.1, 1.05, 0.2], 1.4, 1, 1.2, [1, 0.93, 0.84]);
}
