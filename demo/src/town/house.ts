// A house of the town: walls with their relief, a roof of tiles, shutters, furnished rooms behind them, a yard.
import type { Node } from '@gltf-transform/core';
import { type Builder, type V3, randomizer } from '../builder.ts';
import { box, gable, leaf, merge, moved, panel, roofTile, tube } from '../shapes.ts';
import { Solid, relief } from '../solid.ts';
import { boards, shelves, stool, table } from './furniture.ts';

export interface HousePlan {
  readonly number: number;
  readonly at: V3;
  /** The side that the front looks to, degrees about Y. */
  readonly turn: number;
  /** Names of its materials. */
  readonly wall: string;
  readonly roof: string;
  readonly wood: string;
}
const WIDTH = 4.4;
const DEPTH = 4;
const ROOF_RISE = 1.5;
/** Points of a wall's relief a metre. */
const FINENESS = 22;
const THICK = 0.06;

const TILE = roofTile(0.24, 0.34, 9);
const LOG = tube(
  [
    [-0.5, 0, 0],
    [0, 0.006, 0],
    [0.5, 0, 0],
  ],
  () => 0.075,
  16,
  10,
);
const LEAF = leaf(0.07, 0.12);
const STAKE = box(0.07, 1.15, 0.03);

export function house(b: Builder, parent: Node, plan: HousePlan): void {
  const random = randomizer(7000 + plan.number);
  const heightM = 4.6 + random() * 1.2;
  const name = `House ${plan.number}`;
  const root = b.node(parent, name, { at: plan.at, turn: plan.turn });
  const mesh = (part: string, s: Solid, material: string) =>
    b.mesh(`${name}, ${part.toLowerCase()}`, [s.shape(), material]);
  b.node(root, 'Walls', {}, mesh('Walls', walls(heightM, random), plan.wall));
  const roof = b.node(root, 'Roof', { at: [0, heightM, 0] });
  b.node(roof, 'Gable', { turn: 90 }, b.mesh(`${name}, gable`, [gable(DEPTH + 0.4, ROOF_RISE, WIDTH), plan.wood]));
  b.node(roof, 'Tiles', {}, mesh('Tiles', tiles(random), plan.roof));
  b.node(root, 'Shutters', {}, mesh('Shutters', shutters(heightM), plan.wood));
  if (plan.number % 3 === 0)
    b.node(
      root,
      'Window',
      { at: [1.1, 3, DEPTH / 2 + 0.07] },
      b.mesh(`${name}, window`, [panel(0.5, 0.7), 'Lit window']),
    );
  for (const [floor, at] of [
    ['Room below', 0.05],
    ['Room above', heightM * 0.52],
  ] as const) {
    const room = b.node(root, floor, { at: [0, at, 0] });
    const part = (what: string, s: Solid, pose: Parameters<Builder['node']>[2]) =>
      b.node(room, what, pose, mesh(`${floor}, ${what}`, s, plan.wood));
    part('Boards', boards(WIDTH - 0.3, DEPTH - 0.3), {});
    part('Table', table(random), { at: [0.4, 0.03, 0.2], turn: random() * 40 });
    part('Stool', stool(), { at: [-0.7, 0.03, 0.4] });
    part('Shelves', shelves(random), { at: [0, 0.03, -DEPTH / 2 + 0.3] });
  }
  const yard = b.node(root, 'Yard', { at: [0, 0, -DEPTH / 2] });
  b.node(yard, 'Wood pile', { at: [-1, 0, -0.5] }, mesh('Wood pile', logs(random), 'Bark'));
  b.node(yard, 'Fence', { at: [0, 0, -3] }, mesh('Fence', fence(), plan.wood));
  b.node(yard, 'Bush', { at: [1.2, 0.5, -1.6] }, mesh('Bush', bush(random), random() < 0.5 ? 'Leaf' : 'Autumn leaf'));
}

/** Four walls, outside and inside, uneven as plaster is. */
function walls(heightM: number, random: () => number): Solid {
  const s = new Solid();
  const phase = random() * 10;
  const uneven = (x: number, y: number) =>
    0.012 * Math.sin(3.1 * x + phase) * Math.sin(2.7 * y + 1.3 * phase) +
    0.004 * Math.sin(17 * x) * Math.sin(19 * y + phase);
  const wall = (w: number) =>
    relief(
      Math.round(w * FINENESS),
      Math.round(heightM * FINENESS),
      (u, v) => [(u - 0.5) * w, v * heightM, uneven((u - 0.5) * w, v * heightM)],
      2.4,
    );
  for (const [w, out, turn] of [
    [WIDTH, DEPTH / 2, 0],
    [DEPTH, WIDTH / 2, 90],
    [WIDTH, DEPTH / 2, 180],
    [DEPTH, WIDTH / 2, 270],
  ] as const) {
    const a = (turn * Math.PI) / 180;
    s.add(wall(w), { at: [Math.sin(a) * out, 0, Math.cos(a) * out], turn });
    // the room's side of it, coarser
    s.add(panel(w - 2 * THICK, heightM), {
      at: [Math.sin(a) * (out - THICK), 0, Math.cos(a) * (out - THICK)],
      turn: turn + 180,
    });
  }
  return s;
}

function tiles(random: () => number): Solid {
  const s = new Solid();
  const reach = DEPTH / 2 + 0.2;
  const slope = Math.hypot(reach, ROOF_RISE);
  const angle = (Math.atan2(ROOF_RISE, reach) * 180) / Math.PI;
  for (const side of [1, -1])
    for (let along = 0.14; along < slope; along += 0.28)
      for (let x = -WIDTH / 2 + 0.1; x < WIDTH / 2; x += 0.21)
        s.add(TILE, {
          at: [x, ROOF_RISE * (1 - along / slope) + 0.03, side * (along / slope) * reach],
          turn: side > 0 ? 0 : 180,
          tilt: angle - 4 + random() * 2,
        });
  return s;
}

/** Closed, in slats. */
function shutters(heightM: number): Solid {
  const s = new Solid();
  const slat = box(0.34, 0.03, 0.03);
  const frame = merge([moved(box(0.05, 1.1, 0.05), -0.19, 0, 0), moved(box(0.05, 1.1, 0.05), 0.19, 0, 0)]);
  for (const x of [-1.35, 0.1, 1.35])
    for (const y of [0.9, heightM * 0.52 + 0.8])
      for (const half of [-0.21, 0.21]) {
        const at: V3 = [x + half, y, DEPTH / 2 + 0.05];
        s.add(frame, { at });
        for (let k = 0; k < 24; k++) s.add(slat, { at: [at[0], y + 0.03 + k * 0.044, at[2]], tilt: 25 });
      }
  s.add(box(0.95, 2, 0.08), { at: [-0.55, 0, DEPTH / 2 + 0.04] });
  return s;
}

function logs(random: () => number): Solid {
  const s = new Solid();
  for (let row = 0; row < 9; row++)
    for (let i = 0; i < 12 - (row % 2); i++)
      s.add(LOG, {
        at: [0, 0.075 + row * 0.13, -0.8 + (i + (row % 2) * 0.5) * 0.15],
        turn: (random() - 0.5) * 6,
        scale: [0.9 + random() * 0.15, 0.9 + random() * 0.2, 0.9 + random() * 0.2],
      });
  return s;
}

function fence(): Solid {
  const s = new Solid();
  for (let x = -WIDTH / 2; x <= WIDTH / 2; x += 0.11) s.add(STAKE, { at: [x, 0, 0], turn: Math.sin(x * 40) * 3 });
  for (const y of [0.3, 0.85]) s.add(box(WIDTH, 0.06, 0.04), { at: [0, y, -0.035] });
  return s;
}

const BUSH_LEAVES = 2600;
function bush(random: () => number): Solid {
  const s = new Solid();
  for (let i = 0; i < BUSH_LEAVES; i++) {
    const a = random() * Math.PI * 2;
    const z = random() * 2 - 1;
    const r = 0.75 * Math.cbrt(random());
    const c = Math.sqrt(1 - z * z);
    s.add(LEAF, {
      at: [Math.cos(a) * c * r, z * r * 0.8, Math.sin(a) * c * r],
      turn: random() * 360,
      tilt: (random() - 0.3) * 90,
      scale: 0.8 + random() * 0.6,
    });
  }
  return s;
}
