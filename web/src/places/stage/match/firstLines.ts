// Where the lines of a plate stand before anybody has moved them: as a corner of a box that is seen from the side.
import type { FrameLine, PlateMatch } from '@variscen/core/scene';

/** Where both pairs meet: to the right and to the left, a little above the middle. */
const FAR_RIGHT = [1.3, 0.45] as const;
const FAR_LEFT = [-0.3, 0.45] as const;
/** How far a line goes towards where its pair meets. */
const LENGTH = 0.3;

const towards = (from: readonly [number, number], to: readonly [number, number]): FrameLine => [
  from,
  [from[0] + (to[0] - from[0]) * LENGTH, from[1] + (to[1] - from[1]) * LENGTH],
];

export const FIRST_LINES: PlateMatch = {
  first: [towards([0.5, 0.9], FAR_RIGHT), towards([0.5, 0.2], FAR_RIGHT)],
  firstAlong: '+x',
  second: [towards([0.46, 0.9], FAR_LEFT), towards([0.46, 0.2], FAR_LEFT)],
  secondIs: 'level',
  ground: [0.48, 0.82],
  groundAt: [0, 0, 0],
  scale: { by: 'height', heightM: 1.6 },
};
/** Along the ground, where the scale is to come from a length. */
export const FIRST_LENGTH: FrameLine = [
  [0.48, 0.82],
  [0.62, 0.78],
];
