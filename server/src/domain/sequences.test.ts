// From cells to pictures: in which order, and which.
import type { Project } from '@variscen/contract';
import { describe, expect, it } from 'vitest';
import { picturesOf } from './sequences.ts';

const camera = (id: string, frames: unknown = null) => ({ id, name: id, handling: { frames } });
const project = {
  cameras: [camera('lane'), camera('counter'), camera('walk', [{ first: 0, last: 2, step: 1 }])],
  variants: [{ id: 'base' }, { id: 'dusk' }],
} as unknown as Project;
const cell = (cameraId: string, variantId: string, frames?: number[]) => ({
  cameraId,
  variantId,
  ...(frames && { frames }),
});
const told = (...cells: ReturnType<typeof cell>[]) =>
  picturesOf(project, cells).map((p) => `${p.cameraId} ${p.variantId}${p.frame === null ? '' : ` ${p.frame}`}`);

describe('pictures of cells', () => {
  it('follow one another camera by camera, in the order in which each is named first', () => {
    const order = told(cell('counter', 'dusk'), cell('lane', 'base'), cell('counter', 'base'), cell('lane', 'dusk'));
    expect(order).toEqual(['counter dusk', 'counter base', 'lane base', 'lane dusk']);
  });
  it('are each there once, frames ascending', () => {
    expect(told(cell('walk', 'base', [2, 0]), cell('lane', 'base'), cell('walk', 'base'))).toEqual([
      'walk base 0',
      'walk base 2',
      'walk base 1',
      'lane base',
    ]);
  });
  it('that are not there are refused by name', () => {
    expect(() => told(cell('walk', 'base', [7]))).toThrow('“walk” does not render frame 7.');
    expect(() => told(cell('attic', 'base'))).toThrow('no longer exists');
  });
});
