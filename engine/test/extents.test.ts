// Places in a span of memory: none overlap, what is given back can be taken again, the lowest come first.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Extents } from '../host/extents.ts';

describe('extents', () => {
  it('never overlap, lie within the span, and are all there again when all are given back', () => {
    const steps = fc.array(fc.tuple(fc.integer({ min: 1, max: 40 }), fc.boolean()), { maxLength: 120 });
    fc.assert(
      fc.property(steps, fc.integer({ min: 1, max: 1e6 }), (asked, seed) => {
        const extents = new Extents(1000, 300);
        const taken = new Map<number, number>();
        let most = 0;
        asked.forEach(([bytes, gives], i) => {
          const places = [...taken.keys()];
          if (gives && places.length) {
            const at = places[(seed * (i + 1)) % places.length]!;
            extents.give(at);
            taken.delete(at);
            return;
          }
          const fits = extents.fits(bytes);
          const at = extents.take(bytes);
          expect(at !== undefined).toBe(fits);
          if (at === undefined) return;
          expect(at).toBeGreaterThanOrEqual(1000);
          expect(at + bytes).toBeLessThanOrEqual(1300);
          for (const [from, size] of taken) expect(at + bytes <= from || from + size <= at).toBe(true);
          taken.set(at, bytes);
          const used = [...taken.values()].reduce((a, b) => a + b, 0);
          most = Math.max(most, used);
          expect(extents.usedBytes).toBe(used);
        });
        expect(extents.mostBytes).toBe(most);
        for (const at of taken.keys()) extents.give(at);
        expect([extents.usedBytes, extents.take(300)]).toEqual([0, 1000]);
      }),
    );
  });

  it('are the lowest that fit, and none where there is no span', () => {
    const extents = new Extents(64, 100);
    const [a, b] = [extents.take(30)!, extents.take(30)!];
    extents.give(a);
    expect([a, b, extents.take(40), extents.take(10), extents.take(31)]).toEqual([64, 94, 124, 64, undefined]);
    extents.give(1234); // nothing was taken there
    expect(extents.usedBytes).toBe(80);
    expect(new Extents(0, 0).fits(1)).toBe(false);
  });
});
