// The cameras that come with the scene.
import type { Node } from '@gltf-transform/core';
import type { Builder } from '../builder.ts';

export function cameras(b: Builder, root: Node, framesBy: number): void {
  const c = b.node(root, 'Cameras');
  const frame = (widthPx: number, heightPx: number) => [widthPx * framesBy, heightPx * framesBy] as const;
  b.camera(c, 'Stall from the lane', [0.75, 1.62, 5.6], [0.02, 1.42, 0.1], frame(1920, 1080), 38);
  b.camera(c, 'Counter, close', [0.55, 1.36, 2.3], [0.1, 1.1, 0.2], frame(1600, 900), 62, 4);
  b.camera(c, 'Kettle square', [0.42, 1.3, 1.75], [0.1, 1.11, 0.22], frame(1500, 1500), 80, 5.6);
  b.camera(c, 'Lane upright', [-1.5, 1.45, 4.3], [0.6, 1.75, -0.6], frame(1080, 1350), 30);
  b.camera(c, 'Down on the ware', [0.1, 2.25, 1.55], [0.02, 0.99, 0.2], frame(1600, 1200), 46, 5.6);
  b.camera(c, 'From behind the counter', [-0.5, 1.55, -0.62], [0.5, 1.3, 4.2], frame(2000, 1000), 24);
}
