// A scene that stays loaded while its film changes size, against one that is loaded for each.
import { describe, expect, it } from 'vitest';
import type { Engine, EngineScene, RenderSettings } from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import { FRAME, camera, sceneOf } from './randomScenes.ts';

const SIZES: readonly Partial<RenderSettings>[] = [
  { widthPx: 42, heightPx: 22 },
  { widthPx: 14, heightPx: 7 },
  { widthPx: 96, heightPx: 64 },
  { widthPx: 96, heightPx: 64, region: { left: 17, top: 9, widthPx: 40, heightPx: 21 } },
];
/** With what changes more than the size. */
const OTHERS: readonly Partial<RenderSettings>[] = [
  { lightGroups: 1 },
  { planes: ['depth'] },
  { maxBounces: 2, clampIndirect: 1 },
  { seed: 5 },
  { evidence: { finer: 1 } },
  { noise: { threshold: 0.5, floorNits: 0.05 } },
  { textureCapPx: 4 },
];
async function drawnBy(engine: Engine, what: EngineScene, settings: RenderSettings) {
  const plan = await engine.load(what, settings);
  await engine.render({ camera, samples: 6 });
  const { rgb } = await engine.denoise();
  return { plan, rgb: rgb.slice(), picture: engine.picture(), reached: engine.reached() };
}
async function drawnAnew(what: EngineScene, settings: RenderSettings) {
  const engine = await openNodeEngine(2);
  try {
    return await drawnBy(engine, what, settings);
  } finally {
    await engine.close();
  }
}
const framed = (more: Partial<RenderSettings>): RenderSettings => ({ ...FRAME, denoise: true, ...more });

describe('a scene that is loaded', () => {
  it.each([3, 4, 8])(
    'gets a film of another size and is the picture of a fresh one, to the bit: scene %i',
    async (seed) => {
      const { what } = sceneOf(seed);
      const engine = await openNodeEngine(2);
      try {
        for (const size of [...SIZES, ...SIZES.toReversed()])
          expect(await drawnBy(engine, what, framed(size))).toEqual(await drawnAnew(what, framed(size)));
      } finally {
        await engine.close();
      }
    },
  );
  it('is loaded anew where more than the size is other, or other things were loaded meanwhile', async () => {
    const { what } = sceneOf(5);
    const other = sceneOf(6).what;
    const engine = await openNodeEngine(2);
    try {
      await drawnBy(engine, what, framed({}));
      for (const settings of OTHERS.map(framed))
        expect(await drawnBy(engine, what, settings)).toEqual(await drawnAnew(what, settings));
      const again = await drawnAnew(what, framed({}));
      await drawnBy(engine, other, framed({}));
      expect(await drawnBy(engine, what, framed({}))).toEqual(again);
      await engine.measureMesh(what.meshes[1]!);
      expect(await drawnBy(engine, what, framed({}))).toEqual(again);
      await expect(engine.load(what, framed({ widthPx: 0 }))).rejects.toMatchObject({ code: 'BAD_SETTINGS' });
      expect(await drawnBy(engine, what, framed({}))).toEqual(again);
    } finally {
      await engine.close();
    }
  });
});
