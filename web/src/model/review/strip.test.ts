import type { Rendered, Review } from '@variscen/contract';
import { describe, expect, it } from 'vitest';
import {
  type PicturesOf,
  type Scope,
  askedBefore,
  inScope,
  isShown,
  listed,
  scopeFromAddress,
  scopeInAddress,
  shownFromAddress,
  versionsOf,
} from './strip.ts';

const project = {
  cameras: ['lane', 'counter'].map((id) => ({ id, name: id })),
  variants: ['base', 'celadon'].map((id) => ({ id, name: id })),
} as unknown as PicturesOf;
let n = 0;
const picture = (cameraId: string, variantId: string, version: number, more: Partial<Rendered> = {}): Rendered => ({
  id: `${cameraId} ${variantId} ${version} ${more.frame ?? ''}`.trim(),
  cameraId,
  variantId,
  frame: null,
  version,
  batchId: 'night',
  profileName: 'Sketch',
  widthPx: 480,
  heightPx: 270,
  createdAt: new Date(2026, 9, 3, 8, n++).toISOString(),
  ...more,
});
const review = (renderId: string, more: Partial<Review>): Review => ({
  renderId,
  cameraId: '',
  variantId: '',
  version: 1,
  verdict: null,
  note: '',
  marks: [],
  saidAt: '',
  ...more,
});
const rendered = [
  picture('counter', 'base', 1),
  picture('lane', 'celadon', 1, { batchId: 'day' }),
  picture('lane', 'base', 1),
  picture('lane', 'base', 2, { batchId: 'day' }),
  picture('lane', 'gone', 3),
  picture('counter', 'celadon', 1, { frame: 7 }),
  picture('counter', 'celadon', 2, { frame: 3 }),
];
const reviews = new Map([
  ['lane base 1', review('lane base 1', { verdict: 'rejected', note: 'Darker, please.' })],
  ['counter base 1', review('counter base 1', { verdict: 'approved' })],
]);
const all = listed(project, rendered, reviews);
const names = (list: readonly { rendered: Rendered }[]) => list.map((l) => l.rendered.id);

describe('pictures that are gone through', () => {
  it('are the latest of every cell and frame as the board has them; of what is deleted there are none', () => {
    expect(names(inScope(all, { kind: 'latest' }, project))).toEqual([
      'lane base 2',
      'lane celadon 1',
      'counter base 1',
      'counter celadon 2 3',
      'counter celadon 1 7',
    ]);
  });
  it('are those of a row, a column, a batch, a cell or some cells', () => {
    const of = (scope: Scope) => names(inScope(all, scope, project));
    expect(of({ kind: 'camera', id: 'lane' })).toEqual(['lane base 2', 'lane celadon 1']);
    expect(of({ kind: 'variant', id: 'base' })).toEqual(['lane base 2', 'counter base 1']);
    expect(of({ kind: 'batch', id: 'day' })).toEqual(['lane base 2', 'lane celadon 1']);
    expect(of({ kind: 'versions', cell: 'lane base' })).toEqual(['lane base 2', 'lane base 1']);
    expect(of({ kind: 'cells', cells: ['lane celadon', 'counter base'] })).toEqual([
      'lane celadon 1',
      'counter base 1',
    ]);
  });
  it('are what is approved of every cell, though there are newer versions', () => {
    const said = new Map([['lane base 1', review('lane base 1', { verdict: 'approved' })]]);
    const of = inScope(listed(project, rendered, said), { kind: 'approved' }, project);
    expect(names(of)).toEqual(['lane base 1']);
  });
  it('are shown by what was said of them', () => {
    const shown = (how: Parameters<typeof isShown>[1]) => names(all.filter((l) => isShown(l, how)));
    expect(shown('approved')).toEqual(['counter base 1']);
    expect(shown('rejected')).toEqual(['lane base 1']);
    expect(shown('noted')).toEqual(['lane base 1']);
    expect(shown('open')).toHaveLength(4);
    expect(shown('all')).toHaveLength(6);
  });
  it('know their versions and what was asked of those before', () => {
    const newest = all.find((l) => l.rendered.id === 'lane base 2')!;
    const versions = versionsOf(all, newest);
    expect(names(versions)).toEqual(['lane base 2', 'lane base 1']);
    expect(askedBefore(versions, newest).map((l) => l.review!.note)).toEqual(['Darker, please.']);
    expect(askedBefore(versions, versions[1]!)).toEqual([]);
    // frames of a sequence are apart
    expect(
      versionsOf(
        all,
        all.find((l) => l.rendered.frame === 7)!,
      ),
    ).toHaveLength(1);
  });
  it('are the same by their address, and the latest where it says nothing that is understood', () => {
    const cell = '0b1c 2d3e';
    const scopes: Scope[] = [
      { kind: 'latest' },
      { kind: 'approved' },
      { kind: 'camera', id: 'a-b' },
      { kind: 'batch', id: 'c-d' },
      { kind: 'versions', cell },
      { kind: 'cells', cells: [cell, '4 5'] },
    ];
    for (const scope of scopes) expect(scopeFromAddress(scopeInAddress(scope))).toEqual(scope);
    for (const text of ['', 'cells:', 'versions:abc', 'elsewhere:1'])
      expect(scopeFromAddress(text)).toEqual({ kind: 'latest' });
    expect(shownFromAddress('nonsense')).toBe('all');
    expect(shownFromAddress('rejected')).toBe('rejected');
  });
});
