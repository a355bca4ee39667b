import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type Solid, dropHeight } from './drop.ts';

/** A box from its middle and half sizes, turned about Y. */
function box(
  [x, y, z]: readonly [number, number, number],
  [a, b, c]: readonly [number, number, number],
  turn = 0,
): Solid {
  const positions: number[] = [];
  const cos = Math.cos(turn);
  const sin = Math.sin(turn);
  for (let i = 0; i < 8; i++) {
    const u = i & 1 ? a : -a;
    const v = i & 2 ? b : -b;
    const w = i & 4 ? c : -c;
    positions.push(x + u * cos + w * sin, y + v, z - u * sin + w * cos);
  }
  return {
    positions,
    indices: [
      0, 1, 3, 0, 3, 2, 4, 6, 7, 4, 7, 5, 0, 4, 5, 0, 5, 1, 2, 3, 7, 2, 7, 6, 0, 2, 6, 0, 6, 4, 1, 5, 7, 1, 7, 3,
    ],
  };
}
const TENT: Solid = {
  positions: [-1, 0, -1, -1, 0, 1, 0, 1, -1, 0, 1, 1, 1, 0, -1, 1, 0, 1],
  indices: [0, 1, 3, 0, 3, 2, 2, 3, 5, 2, 5, 4],
};
/** Upside down: a ridge that points down, across the tent's. */
const KEEL: Solid = {
  positions: [-1, 4, -1, 1, 4, -1, -1, 3, 0, 1, 3, 0, -1, 4, 1, 1, 4, 1],
  indices: [0, 1, 3, 0, 3, 2, 2, 3, 5, 2, 5, 4],
};

describe('dropping a thing', () => {
  it('ends where it touches, whatever touches first: a face, a corner, or two edges', () => {
    expect(dropHeight(box([0, 3, 0], [0.5, 0.5, 0.5]), [box([0, 0, 0], [5, 1, 5])])).toBeCloseTo(1.5, 9);
    // a pole under its middle
    expect(dropHeight(box([3, 5, 3], [1, 1, 1]), [box([3, 0, 3], [0.1, 2, 0.1], 0.4)])).toBeCloseTo(2, 9);
    expect(dropHeight(KEEL, [TENT])).toBeCloseTo(2, 9); // ridge on ridge
    // its lower edge on the slope
    expect(dropHeight(box([0.5, 3, 0], [0.25, 0.5, 0.25]), [TENT])).toBeCloseTo(2.5 - 0.75, 9);
  });
  it('never sinks in: after it, it touches and goes no further', () => {
    const small = fc.double({ min: -0.8, max: 0.8, noNaN: true });
    const angle = fc.double({ min: 0, max: 3, noNaN: true });
    fc.assert(
      fc.property(small, small, angle, angle, (x, z, a, b) => {
        const ground = [box([0, -1, 0], [3, 1, 3]), box([0.2, 0.5, 0.1], [0.6, 0.5, 0.3], a), TENT];
        const at = (y: number) => box([x, y, z], [0.4, 0.2, 0.3], b);
        const h = dropHeight(at(5), ground)!;
        expect(dropHeight(at(5 - h), ground)).toBeLessThan(1e-6);
        expect(dropHeight(at(5 - h + 0.25), ground)).toBeCloseTo(0.25, 6);
      }),
      { numRuns: 60 },
    );
  });
  it('stays where it stands, and nothing holds what hangs over nothing', () => {
    expect(dropHeight(box([0, 1.5, 0], [0.5, 0.5, 0.5]), [box([0, 0, 0], [5, 1, 5])])).toBe(0);
    expect(dropHeight(box([9, 3, 0], [0.5, 0.5, 0.5]), [box([0, 0, 0], [5, 1, 5])])).toBeUndefined();
    expect(dropHeight(box([0, 3, 0], [0.5, 0.5, 0.5]), [box([0, 9, 0], [5, 1, 5])])).toBeUndefined(); // above it
  });
});
