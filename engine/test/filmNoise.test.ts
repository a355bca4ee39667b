// The noise of a film so far, beside what is known of it otherwise.
import { afterEach, describe, expect, it } from 'vitest';
import { type Engine, type RenderSettings, standardError } from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import { settings } from './fixtures.ts';
import { stall, stallCamera as camera } from './stall.ts';

const FLOOR_NITS = 0.05;
const FRAME: RenderSettings = { ...settings(100, 70, 3), planes: ['moment'] };
let e: Engine | undefined;
afterEach(() => e?.close());
const rendered = async (s: RenderSettings, samples: number): Promise<Engine> => {
  await e?.close();
  e = await openNodeEngine(2);
  await e.load(stall(), s);
  if (samples > 0) await e.render({ camera, samples });
  return e;
};

describe('the noise of a film', () => {
  it('is the root mean square of the standard error beside the brightness, also of a part of the frame', async () => {
    for (const s of [FRAME, { ...FRAME, region: { left: 13, top: 9, widthPx: 71, heightPx: 40 } }]) {
      const { noise, picture } = await rendered(s, 9).then((x) => ({ noise: x.noise(), picture: x.picture() }));
      const errors = standardError(picture);
      const squares = errors.map((error, i) => {
        const [r, g, b] = picture.rgba.subarray(i * 4) as unknown as [number, number, number];
        return (error / (0.2126 * r + 0.7152 * g + 0.0722 * b + FLOOR_NITS)) ** 2;
      });
      const rms = Math.sqrt(squares.reduce((a, b) => a + b, 0) / squares.length);
      expect(noise! / rms).toBeCloseTo(1, 3);
    }
  });
  it('halves with four times the samples, and of a large film is told from a part of its pixels', async () => {
    const large: RenderSettings = { ...settings(320, 240, 1), planes: ['moment'] };
    const [coarse, fine] = [(await rendered(large, 8)).noise()!, (await rendered(large, 32)).noise()!];
    expect(coarse / fine).toBeGreaterThan(1.6);
    expect(coarse / fine).toBeLessThan(2.4);
  });
  it('agrees with what ends tiles: a film that is quiet everywhere is below the threshold', async () => {
    const threshold = 0.2;
    const s: RenderSettings = { ...FRAME, noise: { threshold, floorNits: FLOOR_NITS } };
    const x = await rendered(s, 512);
    expect(Math.max(...x.picture().samples)).toBeLessThan(512);
    expect(x.noise()!).toBeLessThan(threshold);
    expect(x.noise()!).toBeGreaterThan(threshold / 5);
  });
  it('is not known before there are two samples, nor without second moments', async () => {
    expect((await rendered(FRAME, 0)).noise()).toBeNull();
    expect((await rendered(FRAME, 1)).noise()).toBeNull();
    expect((await rendered(settings(100, 70, 3), 8)).noise()).toBeNull();
  });
});
