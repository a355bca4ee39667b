import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { DISPLAYS, codesOn } from './displays.ts';
import { apply, inverse, times } from './matrices.ts';
import { DISPLAY_P3, REC709, between, xyzOfRgb } from './primaries.ts';
import { rgbOfXyz } from './whitePoint.ts';

const code = fc.double({ min: 0, max: 1, noNaN: true });
const on = (display: (typeof DISPLAYS)[number], codes: readonly number[]): number[] => {
  const own = [...codes];
  codesOn(display)?.(own);
  return own;
};

describe('codes for another display', () => {
  it('of P3 are those that are published for colours of sRGB', () => {
    // CSS Color 4 and its tests: the primaries of sRGB
    for (const [srgb, p3] of [
      [
        [1, 0, 0],
        [0.91749, 0.20029, 0.13856],
      ],
      [
        [0, 1, 0],
        [0.45841, 0.98526, 0.29833],
      ],
      [
        [0, 0, 1],
        [0, 0, 0.95959],
      ],
    ] as const)
      on('display-p3', srgb).forEach((x, k) => expect(x).toBeCloseTo(p3[k]!, 4));
  });
  it('of a video monitor give the same light by its own curve', () => {
    expect(on('rec709', [0.5, 0, 1])).toEqual([expect.closeTo(0.214041 ** (1 / 2.4), 6), 0, 1]);
  });
  it('leave grey grey and stay in range, whatever the display', () => {
    fc.assert(
      fc.property(fc.constantFrom(...DISPLAYS), code, fc.array(code, { minLength: 3, maxLength: 3 }), (d, x, any) => {
        const [r, g, b] = on(d, [x, x, x]) as [number, number, number];
        expect(Math.max(r, g, b) - Math.min(r, g, b)).toBeLessThan(1e-6);
        for (const own of on(d, any)) expect(own >= 0 && own <= 1).toBe(true);
      }),
    );
  });
});

describe('a space by its primaries', () => {
  it('has the published matrix, and goes into another and back unchanged, white as white', () => {
    const light = [0.2, 0.7, 0.1] as const;
    rgbOfXyz(apply(xyzOfRgb(REC709), light)).forEach((x, k) => expect(x).toBeCloseTo(light[k]!, 3));
    const dci = { ...DISPLAY_P3, white: [0.314, 0.351] } as const; // another white
    const there = between(REC709, dci);
    apply(there, [1, 1, 1]).forEach((x) => expect(x).toBeCloseTo(1, 6));
    times(between(dci, REC709), there)
      .flat()
      .forEach((x, i) => expect(x).toBeCloseTo(i % 4 === 0 ? 1 : 0, 5));
    inverse(inverse(there))
      .flat()
      .forEach((x, i) => expect(x).toBeCloseTo(there.flat()[i]!, 9));
  });
});
