import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { FITTED, atFullSize, fittedScale, movedBy, pixelAt, placeAt, placed, zoomedAt } from './view.ts';

const size = fc.record({
  widthPx: fc.integer({ min: 16, max: 16_384 }),
  heightPx: fc.integer({ min: 16, max: 16_384 }),
});
const box = fc.record({ widthPx: fc.integer({ min: 100, max: 2600 }), heightPx: fc.integer({ min: 100, max: 1600 }) });
const share = fc.double({ min: 0, max: 1, noNaN: true });
const view = fc.record({ x: share, y: share, zoom: fc.double({ min: 0.3, max: 8, noNaN: true }) });

describe('a view of a picture', () => {
  it('fits the whole of it into its box, with room around', () => {
    fc.assert(
      fc.property(size, box, (picture, frame) => {
        const { left, top, scale } = placed(picture, frame, FITTED);
        expect(left).toBeGreaterThanOrEqual(0);
        expect(top).toBeGreaterThanOrEqual(0);
        expect(left + picture.widthPx * scale).toBeLessThanOrEqual(frame.widthPx + 1e-6);
        expect(top + picture.heightPx * scale).toBeLessThanOrEqual(frame.heightPx + 1e-6);
      }),
    );
  });

  it('keeps what lies under the pointer where it is while it is zoomed, wherever on the picture that is', () => {
    fc.assert(
      fc.property(
        size,
        box,
        view,
        fc.double({ min: 0.5, max: 3, noNaN: true }),
        share,
        share,
        (picture, frame, v, by, u, w) => {
          const point = [u * frame.widthPx, w * frame.heightPx] as const;
          const next = zoomedAt(picture, frame, v, by, point);
          const isFree = next.x > 0 && next.x < 1 && next.y > 0 && next.y < 1;
          if (!isFree) return; // at its edge it is held in sight
          const [before, after] = [placeAt(picture, frame, v, point), placeAt(picture, frame, next, point)];
          expect(after[0]).toBeCloseTo(before[0], 6);
          expect(after[1]).toBeCloseTo(before[1], 6);
        },
      ),
    );
  });

  it('moves by as much as the hand does, and never out of sight', () => {
    fc.assert(
      fc.property(
        size,
        box,
        view,
        fc.integer({ min: -3000, max: 3000 }),
        fc.integer({ min: -3000, max: 3000 }),
        (picture, frame, v, dx, dy) => {
          const next = movedBy(picture, frame, v, [dx, dy]);
          expect([next.x, next.y].every((s) => s >= 0 && s <= 1)).toBe(true);
          if (next.x > 0 && next.x < 1)
            expect(placed(picture, frame, next).left - placed(picture, frame, v).left).toBeCloseTo(dx, 3);
        },
      ),
    );
  });

  it('shows the same part of two pictures of one frame, whatever their sizes', () => {
    const frame = { widthPx: 700, heightPx: 500 };
    const v = { x: 0.3, y: 0.6, zoom: 4 };
    const [sketch, final] = [
      { widthPx: 480, heightPx: 270 },
      { widthPx: 3840, heightPx: 2160 },
    ];
    const at = [123, 456] as const;
    expect(placeAt(sketch, frame, v, at)[0]).toBeCloseTo(placeAt(final, frame, v, at)[0], 9);
    expect(pixelAt(sketch, frame, v, at)).toEqual([103, 198]);
    expect(pixelAt(final, frame, v, at)![0]).toBe(Math.floor(placeAt(final, frame, v, at)[0] * 3840));
    expect(pixelAt(final, frame, FITTED, [350, 2])).toBeNull();
  });

  it('is at full size where a pixel of the picture is one of the screen', () => {
    const [picture, frame] = [
      { widthPx: 1920, heightPx: 1080 },
      { widthPx: 900, heightPx: 600 },
    ];
    const full = atFullSize(picture, frame, FITTED, 2);
    expect(placed(picture, frame, full).scale).toBeCloseTo(0.5, 9);
    expect(fittedScale(picture, frame)).toBeCloseTo(876 / 1920, 9);
  });
});
