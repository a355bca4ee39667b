import type { Project, Variant } from '@variscen/contract';
import { describe, expect, it } from 'vitest';
import { AS_RENDERED, isAsRendered, optionsOfMix, sharesOf } from './groupMixer.ts';

describe('light groups as they are mixed', () => {
  it('are as rendered, brighter by stops, of another colour by its strongest channel, or off', () => {
    const of = (more: object) => ({ ...AS_RENDERED, ...more });
    expect(
      sharesOf([AS_RENDERED, of({ stops: 2 }), of({ stops: -1, color: [0.2, 0.4, 0.1] }), of({ isMuted: true })]),
    ).toEqual([
      [1, 1, 1],
      [4, 4, 4],
      [0.25, 0.5, 0.125],
      [0, 0, 0],
    ]);
    expect(sharesOf([of({ color: [0, 0, 0] })])).toEqual([[0, 0, 0]]);
    expect(isAsRendered([AS_RENDERED, AS_RENDERED])).toBe(true);
    expect(isAsRendered([AS_RENDERED, of({ isAlone: true })])).toBe(false);
  });
  it('alone leave out those that are not, and what is off stays off', () => {
    const of = (more: object) => ({ ...AS_RENDERED, ...more });
    expect(
      sharesOf([of({ isAlone: true }), AS_RENDERED, of({ isAlone: true, isMuted: true })]).map((s) => s[0]),
    ).toEqual([1, 0, 0]);
  });
  it('become an option for each facet, over what the variant has of it', () => {
    const c = (target: string, property: string, value: number) => ({ target, property, value });
    const project = {
      options: [
        {
          id: 'a',
          facet: 'lighting',
          changes: [c('light:Lamp', 'light.intensity', 3), c('light:Key', 'light.radius', 1)],
        },
        { id: 'b', facet: 'lighting', changes: [c('light:Lamp', 'light.radius', 9)] },
        { id: 'd', facet: 'environment', changes: [c('environment', 'environment.turn', 9)] },
      ],
    } as unknown as Project;
    const mix = [c('light:Lamp', 'light.intensity', 6), c('material:Paper', 'material.emissionStrength', 2)];
    expect(optionsOfMix(project, { optionIds: ['a', 'd'] } as unknown as Variant, mix, 'Mixed')).toEqual([
      {
        facet: 'lighting',
        name: 'Mixed',
        changes: expect.arrayContaining([
          c('light:Lamp', 'light.intensity', 6),
          c('light:Key', 'light.radius', 1),
        ]) as unknown,
      },
      { facet: 'materials', name: 'Mixed', changes: [c('material:Paper', 'material.emissionStrength', 2)] },
    ]);
  });
});
