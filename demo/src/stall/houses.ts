// The lane of houses.
import type { Node } from '@gltf-transform/core';
import { type Builder, type V3, randomizer } from '../builder.ts';
import { box, gable, merge, moved, panel, roofTile } from '../shapes.ts';
import type { Quality } from './quality.ts';

export function houses(b: Builder, root: Node, q: Quality): void {
  const lane = b.node(root, 'Lane');
  const r = randomizer(23);
  const tile = b.mesh('Roof tile', [roofTile(q(0.27, 0.62), q(0.36, 0.8), q(12, 3)), 'Roof clay']);
  const shapes = {
    litWindow: b.mesh('Lit window', [panel(0.62, 0.9), 'Lit window']),
    darkWindow: b.mesh('Dark window', [panel(0.62, 0.9), 'Dark window']),
    frame: b.mesh('Window frame', [
      merge([
        moved(box(0.76, 0.08, 0.12), 0, -0.08, 0),
        moved(box(0.76, 0.08, 0.12), 0, 0.9, 0),
        moved(box(0.07, 0.9, 0.12), -0.345, 0, 0),
        moved(box(0.07, 0.9, 0.12), 0.345, 0, 0),
        moved(box(0.03, 0.9, 0.06), 0, 0, 0),
      ]),
      'Dark wood',
    ]),
    door: b.mesh('House door', [box(0.95, 2, 0.1), 'Old wood']),
    beam: b.mesh('Facade beam', [box(3.7, 0.16, 0.12), 'Dark wood']),
  };
  const spots: { name: string; at: V3; turn: number }[] = [];
  for (let i = 0; i < q(5, 3); i++) {
    spots.push({ name: `Left house ${i + 1}`, at: [-5.4, 0, -1.2 + i * 3.75], turn: 90 });
    spots.push({ name: `Right house ${i + 1}`, at: [5.4, 0, -1.2 + i * 3.75], turn: -90 });
  }
  spots.push(
    { name: 'House behind the stall', at: [-1.9, 0, -4.2], turn: 0 },
    { name: 'Second house behind the stall', at: [1.9, 0, -4.4], turn: 0 },
    { name: 'House at the lane end', at: [-1.9, 0, 18.6], turn: 180 },
    { name: 'Second house at the lane end', at: [1.9, 0, 18.8], turn: 180 },
  );
  spots.forEach((s, i) => {
    const h = 3.5 + r() * 1.1;
    const w = 3.72;
    const d = 3.2;
    const house = b.node(lane, s.name, { at: s.at, turn: s.turn });
    const wall = i % 3 === 1 ? 'Warm plaster' : 'Plaster';
    b.node(house, 'Walls', {}, b.mesh(`${s.name} walls`, [box(w, h, d, 2.2), wall]));
    const rise = 1.25;
    const roof = b.node(house, 'Roof', { at: [0, h, 0] });
    b.node(roof, 'Gable', { turn: 90 }, b.mesh(`${s.name} gable`, [gable(d + 0.5, rise, w + 0.08), 'Dark wood']));
    const slope = Math.hypot(d / 2 + 0.25, rise);
    const angle = (Math.atan2(rise, d / 2 + 0.25) * 180) / Math.PI;
    const sx = q(0.235, 0.6);
    const sz = q(0.3, 0.66);
    const tiles = b.node(roof, 'Tiles');
    for (const side of q(2, 1) === 2 ? [1, -1] : [1])
      for (let row = 0; row * sz < slope; row++)
        for (let x = -w / 2 + sx / 2; x < w / 2; x += sx) {
          const along = row * sz + sz / 2;
          const y = rise - (along / slope) * rise + 0.03;
          const z = side * (along / slope) * (d / 2 + 0.25);
          b.node(
            tiles,
            `Tile ${side > 0 ? 'front' : 'back'} ${row + 1}-${Math.round((x + w / 2) / sx + 0.5)}`,
            { at: [x, y, z], turn: side > 0 ? 0 : 180, tilt: angle - 4 + r() * 2 },
            tile,
          );
        }
    const front = d / 2 + 0.01;
    b.node(house, 'Beam', { at: [0, 2.35, front] }, shapes.beam);
    b.node(house, 'Door', { at: [1.05, 0, front] }, shapes.door);
    for (const [k, x, y] of [
      [1, -1.1, 0.95],
      [2, -1.1, 2.62],
      [3, 0, 2.62],
      [4, 1.1, 2.62],
      [5, -0.1, 0.95],
    ] as const) {
      if (y + 0.95 > h) continue;
      b.node(house, `Window ${k}`, { at: [x, y, front + 0.005] }, r() < 0.36 ? shapes.litWindow : shapes.darkWindow);
      b.node(house, `Window frame ${k}`, { at: [x, y, front] }, shapes.frame);
    }
  });
}
