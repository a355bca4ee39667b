// Whether the engine still draws as its number says. Where this fails, pictures have become others: raise DRAWING in
// engine/host/drawing.ts, and put what is said here in its place. Where nobody meant to change pictures, something is
// wrong.
import { createHash } from 'node:crypto';
import { expect, it } from 'vitest';
import { DRAWING, type RenderSettings } from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import { generateEnvironment } from '@variscen/core/environment';
import { settings } from './fixtures.ts';
import { stall, stallCamera } from './stall.ts';

const DRAWN: Readonly<Record<number, Readonly<Record<string, string>>>> = {
  1: {
    lit: 'c98c2ca162134263',
    'lit, denoised': '7df03b0315d65694',
    'under a sky': '78d031b5e7d0a136',
    'under a sky, denoised': '31b3111da3d3539f',
  },
};
const FRAME: RenderSettings = {
  ...settings(96, 64, 4),
  planes: ['depth', 'normal', 'albedo', 'direct', 'indirect', 'objects', 'materials', 'emission'],
  lightGroups: 2,
  denoise: true,
  noise: { threshold: 0.1, floorNits: 0.05 },
};
const hashOf = (...parts: readonly Float32Array[]): string => {
  const hash = createHash('sha256');
  for (const p of parts) hash.update(new Uint8Array(p.buffer, p.byteOffset, p.byteLength));
  return hash.digest('hex').slice(0, 16);
};

it('draws as its number says', async () => {
  const sky = { ...generateEnvironment('dusk', 32), scale: [1, 1, 1] as const, turnRad: 0.4 };
  const scenes = { lit: stall(), 'under a sky': { ...stall(), environment: sky, lights: [] } };
  const drawn: Record<string, string> = {};
  const engine = await openNodeEngine(2);
  try {
    for (const [name, scene] of Object.entries(scenes)) {
      await engine.load(scene, FRAME);
      await engine.render({ camera: stallCamera, samples: 20 });
      const { rgba, planes } = engine.picture();
      drawn[name] = hashOf(rgba, ...Object.values(planes));
      drawn[`${name}, denoised`] = hashOf((await engine.denoise()).rgb);
    }
  } finally {
    await engine.close();
  }
  expect(drawn).toEqual(DRAWN[DRAWING]);
});
