import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { cameraForScene } from './cameraSettings.ts';
import { IDENTITY, lookAt } from './matrix.ts';
import { cutsInFrame, depthSpan, isClosed, planeCut } from './planeCuts.ts';

// the corners of a cube about the origin, half a metre to each side, and its twelve triangles, outwards
const CUBE = new Float32Array(
  [-1, -1, -1, 1, -1, -1, 1, 1, -1, -1, 1, -1, -1, -1, 1, 1, -1, 1, 1, 1, 1, -1, 1, 1].map((x) => x / 2),
);
const SIDES = [
  0, 2, 1, 0, 3, 2, 4, 5, 6, 4, 6, 7, 0, 1, 5, 0, 5, 4, 3, 6, 2, 3, 7, 6, 1, 2, 6, 1, 6, 5, 0, 4, 7, 0, 7, 3,
];

describe('a plane of a camera', () => {
  const cutAt = () => true;
  const spans = [
    { node: 1, fromM: 1, toM: 2, cutAt },
    { node: 2, fromM: 1.5, toM: 3, cutAt },
    { node: 3, fromM: 5, toM: 6, cutAt },
  ];
  it('names what it cuts, and the nearest distances that cut nothing', () => {
    expect(planeCut(1.7, spans)).toEqual({ nodes: [1, 2], nearerM: 1, fartherM: 3 });
    expect(planeCut(5.5, spans)).toEqual({ nodes: [3], nearerM: 5, fartherM: 6 });
  });
  it('cuts nothing between bodies or where it only touches one', () => {
    for (const d of [0.5, 1, 3, 4, 5, 9]) expect(planeCut(d, spans).nodes).toEqual([]);
  });
  it('has no nearer distance inside a body that reaches behind the eye', () => {
    expect(planeCut(1, [{ node: 0, fromM: -1, toM: 2, cutAt }])).toEqual({ nodes: [0], nearerM: null, fartherM: 2 });
  });
  it('offers only distances that are free, whatever stands there', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.double({ min: 0.1, max: 9, noNaN: true }), fc.double({ min: 0.01, max: 3, noNaN: true }))),
        fc.double({ min: 0.1, max: 12, noNaN: true }),
        (bodies, d) => {
          const all = bodies.map(([fromM, size], node) => ({ node, fromM, toM: fromM + size, cutAt }));
          const cut = planeCut(d, all);
          for (const free of [cut.nearerM, cut.fartherM])
            if (free !== null) expect(planeCut(free, all).nodes).toEqual([]);
        },
      ),
    );
  });
});

describe('a body along a camera’s axis', () => {
  it('reaches from its nearest to its farthest point', () => {
    const seen = depthSpan({ matrix: lookAt([0, 0, 4], [0, 0, 0]) }, IDENTITY, CUBE);
    expect([seen.fromM, seen.toM]).toEqual([expect.closeTo(3.5), expect.closeTo(4.5)]);
    // across the corner, twice as large, a metre nearer
    const turned = depthSpan(
      { matrix: lookAt([3, 0, 3], [0, 0, 0]) },
      [2, 0, 0, 0, 0, 2, 0, 0, 0, 0, 2, 0, 0, 0, 0, 1],
      CUBE,
    );
    expect([turned.fromM, turned.toM]).toEqual([expect.closeTo(2 * Math.SQRT2), expect.closeTo(4 * Math.SQRT2)]);
  });
});

describe('a plane within the frame', () => {
  // 90° across and up
  const camera = {
    ...cameraForScene({ version: 1, nodes: [], meshes: [], materials: [], textures: [], lights: [], cameras: [] }),
    matrix: lookAt([0, 0, 2], [0, 0, 0]),
    widthPx: 100,
    heightPx: 100,
    focalLengthMm: 18,
  };
  const cuts = (d: number, world = IDENTITY, c = camera) => cutsInFrame(c, world, CUBE, SIDES, d);
  it('cuts a body open where its section shows', () => {
    expect([1.4, 1.6, 2, 2.4, 2.6].map((d) => cuts(d))).toEqual([false, true, true, true, false]);
  });
  it('cuts nothing that lies outside the frame at that distance', () => {
    const aside = [...IDENTITY.slice(0, 12), 3, 0, 0, 1];
    expect(cuts(2, aside)).toBe(false); // from 2.5 m on, and the frame ends at 2 m
    expect(cuts(2.45, [...IDENTITY.slice(0, 12), 2.9, 0, 0, 1])).toBe(true);
    expect(cuts(2, aside, { ...camera, shiftX: 0.5 })).toBe(true);
  });
  it('cuts nothing from inside: a room around the camera', () => {
    expect(cuts(0.5, [20, 0, 0, 0, 0, 20, 0, 0, 0, 0, 20, 0, 0, 0, 0, 1])).toBe(false);
  });
});

describe('a closed mesh', () => {
  it('is one whose every edge has two sides', () => {
    expect(isClosed(CUBE, SIDES)).toBe(true);
    expect(isClosed(CUBE, SIDES.slice(3))).toBe(false); // a hole
    expect(isClosed(CUBE, [...SIDES.slice(0, 3).reverse(), ...SIDES.slice(3)])).toBe(false); // one side turned over
    expect(isClosed(new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]), [0, 1, 2])).toBe(false);
  });
  it('may keep vertices apart that lie at one place', () => {
    expect(
      isClosed(
        new Float32Array(SIDES.flatMap((i) => [...CUBE.subarray(i * 3, i * 3 + 3)])),
        SIDES.map((_, k) => k),
      ),
    ).toBe(true);
  });
});
