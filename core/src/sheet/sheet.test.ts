import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  LABEL_TOKENS,
  type LabelValues,
  type SheetContent,
  faultOfLabel,
  labelLines,
  layOut,
  shortened,
  wrapped,
} from './index.ts';

const measure = (text: string) => [...text].length * 4;
const values = {
  ...Object.fromEntries(LABEL_TOKENS.map((t) => [t, ''])),
  camera: 'Lane',
  variant: 'Celadon',
  version: 'v003',
} as unknown as LabelValues;

describe('a label', () => {
  it('says what its tokens stand for; what stands between those that say nothing goes with them', () => {
    expect(labelLines('{camera} · {variant} · {verdict}\n{note}\n{version}', values)).toEqual([
      'Lane · Celadon',
      'v003',
    ]);
    expect(labelLines('', values)).toEqual([]);
    expect(labelLines('{verdict} · {camera}, take', values)).toEqual(['Lane, take']);
  });
  it('is refused with a token that there is not, or a brace that is open', () => {
    expect(faultOfLabel('{camera} {colour}')).toMatch(/no token \{colour\}/);
    expect(faultOfLabel('{camera')).toBe('A brace is not closed.');
    expect(faultOfLabel('x'.repeat(301))).toMatch(/longer than 300/);
    expect(faultOfLabel('{camera} – {note}')).toBeUndefined();
  });
});

const aspect = fc.double({ min: 0.3, max: 4, noNaN: true });
const label = fc.array(fc.string({ maxLength: 60 }), { maxLength: 4 });
const contents = fc
  .record({
    title: fc.string({ maxLength: 80 }),
    rows: fc.integer({ min: 1, max: 30 }),
    columns: fc.integer({ min: 1, max: 25 }),
    withHeads: fc.boolean(),
    pictures: fc.array(fc.record({ aspect, label }), { minLength: 1, maxLength: 8 }),
    holes: fc.array(fc.boolean(), { minLength: 7, maxLength: 7 }),
  })
  .map(({ title, rows, columns, withHeads, pictures, holes }): SheetContent & { cells: number } => {
    let cells = 0;
    const grid = Array.from({ length: rows }, (_, y) => ({
      head: withHeads ? `Camera ${y}` : null,
      pictures: Array.from({ length: columns }, (_, x) => {
        if (holes[(x + 3 * y) % holes.length]) return null;
        cells++;
        return (x + y) % pictures.length;
      }),
    }));
    const columnHeads = withHeads ? Array.from({ length: columns }, (_, x) => `Variant ${x}`) : [];
    return { title, columnHeads, rows: grid, pictures, cells };
  });
const pages = fc.constantFrom(
  { widthPt: 842, heightPt: 595 },
  { widthPt: 595, heightPt: 842 },
  { widthPt: 900, heightPt: null },
);

describe('a contact sheet', () => {
  it('has every picture once, in its shape, on its page, none over another or over words', () => {
    fc.assert(
      fc.property(contents, pages, (content, page) => {
        const laid = layOut(content, page, measure);
        expect(laid.flatMap((p) => p.pictures)).toHaveLength(content.cells);
        for (const { pictures, texts, widthPt, heightPt } of laid) {
          for (const p of pictures) {
            expect(p.widthPt / p.heightPt).toBeCloseTo(content.pictures[p.picture]!.aspect, 6);
            expect(p.x).toBeGreaterThanOrEqual(0);
            expect(p.y).toBeGreaterThanOrEqual(0);
            expect(p.x + p.widthPt).toBeLessThanOrEqual(widthPt);
            expect(p.y + p.heightPt).toBeLessThanOrEqual(heightPt);
          }
          for (const [i, a] of pictures.entries())
            for (const b of pictures.slice(i + 1)) {
              const isApart =
                a.x + a.widthPt <= b.x || b.x + b.widthPt <= a.x || a.y + a.heightPt <= b.y || b.y + b.heightPt <= a.y;
              expect(isApart).toBe(true);
            }
          for (const t of texts) {
            expect(t.x + measure(t.text)).toBeLessThanOrEqual(widthPt);
            expect(t.y).toBeLessThanOrEqual(heightPt);
            for (const p of pictures)
              expect(
                t.y <= p.y || t.y > p.y + p.heightPt || t.x + measure(t.text) <= p.x || t.x >= p.x + p.widthPt,
              ).toBe(true);
          }
        }
      }),
      { numRuns: 20 },
    );
  });
  it('goes on with further columns where there is no room for all, each page with its heads and its number', () => {
    const pictures = [{ aspect: 1.5, label: ['One'] }];
    const rows = Array.from({ length: 2 }, (_, y) => ({
      head: `Camera ${y}`,
      pictures: Array.from({ length: 24 }, () => 0),
    }));
    const columnHeads = Array.from({ length: 24 }, (_, x) => `Variant ${x}`);
    const laid = layOut({ title: 'Fair', columnHeads, rows, pictures }, { widthPt: 842, heightPt: 595 }, measure);
    expect(laid).toHaveLength(3);
    for (const [i, page] of laid.entries()) {
      const said = page.texts.map((t) => t.text);
      expect(said).toEqual(
        expect.arrayContaining(['Fair', 'Camera 0', 'Camera 1', `Variant ${i * 8}`, `${i + 1} of 3`]),
      );
    }
  });
  it('breaks heads between words, and shortens what is still too long', () => {
    const words = 'Paper lanterns · Clear night · Bright print';
    expect(wrapped(words, 'head', 80, 3, measure)).toEqual(['Paper lanterns ·', 'Clear night · Bright', 'print']);
    expect(wrapped(words, 'head', 80, 2, measure)).toEqual(['Paper lanterns ·', 'Clear night · Brigh…']);
    expect(wrapped('', 'head', 80, 2, measure)).toEqual([]);
  });
  it('shortens what there is no room for, by whole letters', () => {
    expect(shortened('Lanterns', 'label', 100, measure)).toBe('Lanterns');
    expect(shortened('Lanterns', 'label', 20, measure)).toBe('Lant…');
    expect(shortened('🏮🏮🏮🏮', 'label', 12, measure)).toBe('🏮🏮…');
  });
});
