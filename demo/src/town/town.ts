// The lane grown to a quarter of a town: houses with furnished rooms, yards, roofs and trees, each of its own.
import type { Node } from '@gltf-transform/core';
import { type Builder, type V3, randomizer } from '../builder.ts';
import { box, leaf, tube } from '../shapes.ts';
import { Solid } from '../solid.ts';
import { type HousePlan, house } from './house.ts';
import { type Rgb, patterns } from './paints.ts';

const HOUSES = 60;
const TREES = 14;
const LEAVES_OF_A_TREE = 5200;
/** Rows of houses: where they stand, and the side that they look to. */
const ROWS = [
  { x: -12.2, turn: -90 },
  { x: 12.2, turn: 90 },
  { x: -22, turn: 90 },
  { x: 22, turn: -90 },
] as const;
const FROM_Z = -26;
const STEP_Z = 5;

export function town(b: Builder, root: Node): void {
  const quarter = b.node(root, 'Town');
  const looks = materials(b);
  ground(b, quarter);
  for (let i = 0; i < HOUSES; i++) {
    const row = ROWS[i % ROWS.length]!;
    const at: V3 = [row.x, 0, FROM_Z + Math.floor(i / ROWS.length) * STEP_Z];
    house(b, quarter, { number: i + 1, at, turn: row.turn, ...looks[i]! });
  }
  trees(b, quarter);
  const cameras = b.node(quarter, 'Town cameras');
  b.camera(cameras, 'Over the roofs', [26, 14, 34], [0, 2, 4], [1920, 1080], 28);
  b.camera(cameras, 'Side lane', [17, 1.6, 12], [16.6, 1.9, -6], [1600, 900], 30);
}

/** Three for each house: 150 textures and a few more, up to 4K. */
function materials(b: Builder): Pick<HousePlan, 'wall' | 'roof' | 'wood'>[] {
  const made = patterns();
  const random = randomizer(555);
  const tone = (base: Rgb, spread: number): Rgb => {
    const k = 1 + (random() - 0.5) * spread;
    return [base[0] * k, base[1] * k, base[2] * k].map((x) => Math.min(255, x)) as unknown as Rgb;
  };
  const woods = Array.from({ length: 30 }, (_, i) => {
    const bright = tone([150, 104, 66], 0.5);
    b.addTexture(`town wood ${i + 1}`, made.wood.png(1024, tone([70, 46, 28], 0.4), bright, i * 37));
    b.material(`Town wood ${i + 1}`, { color: [1, 1, 1], roughness: 0.7, paint: `town wood ${i + 1}` });
    return `Town wood ${i + 1}`;
  });
  b.addTexture('town earth', made.earth.png(4096, [40, 36, 30], [96, 88, 74], 0));
  b.material('Town earth', { color: [1, 1, 1], roughness: 0.95, paint: 'town earth' });
  return Array.from({ length: HOUSES }, (_, i) => {
    const wall = tone(i % 3 === 1 ? [206, 158, 118] : [190, 174, 150], 0.3);
    b.addTexture(`town plaster ${i + 1}`, made.plaster.png(512, tone([118, 104, 88], 0.3), wall, i * 53));
    b.material(`Town plaster ${i + 1}`, { color: [1, 1, 1], roughness: 0.95, paint: `town plaster ${i + 1}` });
    b.addTexture(`town clay ${i + 1}`, made.clay.png(512, [70, 34, 22], tone([150, 74, 48], 0.4), i * 29));
    b.material(`Town clay ${i + 1}`, { color: [1, 1, 1], roughness: 0.8, paint: `town clay ${i + 1}` });
    return { wall: `Town plaster ${i + 1}`, roof: `Town clay ${i + 1}`, wood: woods[i % woods.length]! };
  });
}

function ground(b: Builder, parent: Node): void {
  b.node(parent, 'Town ground', { at: [0, -0.32, 8] }, b.mesh('Town ground', [box(120, 0.1, 110, 10), 'Town earth']));
}

function trees(b: Builder, parent: Node): void {
  const grove = b.node(parent, 'Trees');
  const branch = leaf(0.08, 0.14);
  for (let i = 0; i < TREES; i++) {
    const random = randomizer(9000 + i);
    const at: V3 = [(i % 2 ? 1 : -1) * (16.8 + (random() - 0.5) * 2), 0, FROM_Z + 4 + i * 5.2];
    const tree = b.node(grove, `Tree ${i + 1}`, { at });
    const trunk = tube(
      [
        [0, -0.1, 0],
        [0.1, 1.2, 0.05],
        [-0.1, 2.6, 0],
        [0.1, 4.2, 0.1],
      ],
      (k) => 0.22 - 0.15 * k,
      28,
      40,
    );
    b.node(tree, 'Trunk', {}, b.mesh(`Tree ${i + 1}, trunk`, [trunk, 'Bark']));
    const crown = new Solid();
    for (let k = 0; k < LEAVES_OF_A_TREE; k++) {
      const a = random() * Math.PI * 2;
      const z = random() * 2 - 1;
      const r = 1.7 * Math.cbrt(random());
      const c = Math.sqrt(1 - z * z);
      crown.add(branch, {
        at: [Math.cos(a) * c * r, 4.4 + z * r * 0.8, Math.sin(a) * c * r],
        turn: random() * 360,
        tilt: (random() - 0.3) * 90,
      });
    }
    const leaves = b.mesh(`Tree ${i + 1}, crown`, [crown.shape(), i % 3 ? 'Autumn leaf' : 'Leaf']);
    b.node(tree, 'Crown', {}, leaves);
  }
}
