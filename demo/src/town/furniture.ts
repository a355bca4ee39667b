// What stands in the rooms behind the shutters.
import { box, lathe } from '../shapes.ts';
import { Solid } from '../solid.ts';

type Random = () => number;

const JAR = lathe(
  [
    [0.001, 0],
    [0.06, 0],
    [0.085, 0.09],
    [0.05, 0.17],
    [0.055, 0.19],
    [0.001, 0.2],
  ],
  28,
  24,
);
const BOWL = lathe(
  [
    [0.001, 0],
    [0.04, 0],
    [0.09, 0.06],
    [0.085, 0.06],
    [0.03, 0.01],
    [0.001, 0.01],
  ],
  28,
  20,
);
const LEG = lathe(
  [
    [0.02, 0],
    [0.03, 0.2],
    [0.022, 0.5],
    [0.035, 0.72],
  ],
  16,
  24,
);

/** A table with four legs and what lies on it. */
export function table(random: Random): Solid {
  const s = new Solid().add(box(1.3, 0.04, 0.75), { at: [0, 0.72, 0] });
  for (const x of [-0.58, 0.58]) for (const z of [-0.3, 0.3]) s.add(LEG, { at: [x, 0, z] });
  for (let i = 0; i < 6; i++)
    s.add(random() < 0.5 ? BOWL : JAR, {
      at: [(random() - 0.5) * 1.1, 0.76, (random() - 0.5) * 0.55],
      scale: 0.8 + random() * 0.5,
    });
  return s;
}

export function stool(): Solid {
  const s = new Solid().add(box(0.36, 0.03, 0.36), { at: [0, 0.44, 0] });
  for (const x of [-0.14, 0.14]) for (const z of [-0.14, 0.14]) s.add(LEG, { at: [x, 0, z], scale: [0.7, 0.61, 0.7] });
  return s;
}

const BOARDS = 5;
const ON_A_BOARD = 9;
/** Boards on the wall, full of jars and bowls. */
export function shelves(random: Random): Solid {
  const s = new Solid();
  for (let row = 0; row < BOARDS; row++) {
    s.add(box(1.9, 0.025, 0.26), { at: [0, 0.4 + row * 0.36, 0] });
    for (let i = 0; i < ON_A_BOARD; i++)
      s.add(random() < 0.6 ? JAR : BOWL, {
        at: [-0.85 + i * 0.21, 0.425 + row * 0.36, (random() - 0.5) * 0.06],
        turn: random() * 360,
        scale: 0.8 + random() * 0.6,
      });
  }
  for (const x of [-0.95, 0.95]) s.add(box(0.03, 2.1, 0.26), { at: [x, 0, 0] });
  return s;
}

/** Floor boards, each a little apart. */
export function boards(w: number, d: number): Solid {
  const s = new Solid();
  for (let x = -w / 2 + 0.08; x < w / 2; x += 0.16) s.add(box(0.155, 0.03, d, 1.2), { at: [x, 0, 0] });
  return s;
}
