import { PROFILES, type Profile } from '@variscen/core/plan';
import { describe, expect, it } from 'vitest';
import { type RenderCost, expectedOf, isUnsure } from './renderCosts.ts';

const [sketch, proof] = PROFILES as readonly [Profile, Profile];
const open: Profile = { ...sketch, timeLimitS: null, samples: 10 };
const cost = (over: Partial<RenderCost>): RenderCost => ({
  projectId: 'a',
  cameraId: 'counter',
  variantId: 'base',
  widthPx: 1000,
  heightPx: 500,
  crop: null,
  profile: open,
  seconds: 5,
  ...over,
});
const asked = { cameraId: 'counter', variantId: 'base', profile: open, pixels: 500_000 };

describe('what a trace is expected to take', () => {
  it('is what the same cell took, before what its camera took, its project, and others', () => {
    const costs = [
      cost({ seconds: 6 }),
      cost({ variantId: 'dusk', seconds: 12 }),
      cost({ cameraId: 'lane', seconds: 100 }),
    ];
    const of = (more: Partial<typeof asked>) => expectedOf(costs, { ...asked, ...more });
    expect(of({})).toEqual({ expectedS: 6, from: 'cell' });
    expect(of({ variantId: 'noon' })).toEqual({ expectedS: 9, from: 'camera' });
    expect(of({ cameraId: 'kettle' })!.from).toBe('project');
    expect(of({ cameraId: 'kettle' })!.expectedS).toBeCloseTo((6 + 12 + 100) / 3);
    expect(expectedOf([cost({ cameraId: null, variantId: null })], asked)).toEqual({ expectedS: 5, from: 'other' });
    expect(expectedOf([], asked)).toBeNull();
  });
  it('is what was measured of the cell, before what other cameras took', () => {
    const lane = cost({ cameraId: 'lane', seconds: 100 });
    const pathS = 2e-6;
    expect(expectedOf([lane], asked, pathS)).toEqual({ expectedS: 10, from: 'measured' });
    expect(expectedOf([], asked, pathS)!.from).toBe('measured');
    expect(expectedOf([], { ...asked, profile: { ...open, samples: 4000, timeLimitS: 60 } }, pathS)!.expectedS).toBe(
      60,
    );
    expect(expectedOf([cost({ variantId: 'dusk' })], asked, pathS)!.from).toBe('camera');
    expect(
      [null, expectedOf([lane], asked), expectedOf([], asked, pathS), expectedOf([cost({})], asked)].map(isUnsure),
    ).toEqual([true, true, false, false]);
  });
  it('goes by pixels and samples, by the part that was rendered, and no further than the time limit', () => {
    const half = cost({ crop: { left: 0, top: 0, right: 50, bottom: 100 }, seconds: 5 });
    expect(expectedOf([half], asked)!.expectedS).toBeCloseTo(10);
    expect(expectedOf([cost({})], { ...asked, pixels: 50_000 })!.expectedS).toBeCloseTo(0.5);
    expect(expectedOf([cost({})], { ...asked, profile: { ...open, samples: 40 } })!.expectedS).toBeCloseTo(20);
    expect(expectedOf([cost({})], { ...asked, profile: { ...open, samples: 4000, timeLimitS: 60 } })!.expectedS).toBe(
      60,
    );
  });
  it('takes what was rendered the same way, where there is some: a noise limit saves again what it saved', () => {
    const quiet = { ...open, noise: 0.05 };
    const costs = [cost({ seconds: 20 }), cost({ profile: quiet, seconds: 4 })];
    expect(expectedOf(costs, { ...asked, profile: quiet })!.expectedS).toBeCloseTo(4);
    expect(expectedOf(costs, asked)).toEqual({ expectedS: 20, from: 'cell' });
    expect(expectedOf(costs, { ...asked, profile: { ...proof, timeLimitS: null, integrator: 'direct' } })!.from).toBe(
      'camera',
    );
  });
});
