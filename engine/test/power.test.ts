// Threads that come and go while a picture is rendered.
import { describe, expect, it } from 'vitest';
import { MASK } from '../host/index.ts';
import { openNodeEngine } from '../host/node/index.ts';
import {
  IDENTITY,
  constantSky,
  floor,
  frontCamera,
  matte,
  scene,
  settings,
  shoot,
  sphere,
  translated,
} from './fixtures.ts';

const what = () =>
  scene({
    meshes: [sphere(24, 0.5), floor(6)],
    materials: [matte],
    instances: [
      { name: 'ball', mesh: 0, material: 0, matrix: translated(0, 0.5, 0), mask: MASK.ALL },
      { name: 'floor', mesh: 1, material: 0, matrix: IDENTITY, mask: MASK.ALL },
    ],
    environment: constantSky(0.3),
  });
const shot = { camera: frontCamera(4, 0.5), settings: settings(320, 192, 6), samples: 12 };
const after = (ms: number) => new Promise((r) => setTimeout(r, ms));

describe('threads that may work', () => {
  it('more, fewer and none in mid-picture: the picture is the same to the bit', async () => {
    const e = await openNodeEngine(2);
    try {
      await e.load(what(), shot.settings);
      e.setThreads(1);
      const fractions: number[] = [];
      const onProgress = (p: { fraction: number }) => fractions.push(p.fraction);
      const rendering = e.render({ camera: shot.camera, samples: shot.samples, onProgress });
      for (const threads of [2, 0, 1, 0, 2]) {
        await after(150);
        e.setThreads(threads);
      }
      const stats = await rendering;
      expect(e.picture().rgba).toEqual(await shoot(what(), shot));
      expect(stats.samples).toBe(shot.samples);
    } finally {
      await e.close();
    }
  });
  it('none: nothing goes on and no time counts, until some may again', async () => {
    const e = await openNodeEngine(2);
    try {
      await e.load(what(), shot.settings);
      e.setThreads(0);
      let fraction = -1;
      const onProgress = (p: { fraction: number }) => (fraction = p.fraction);
      const rendering = e.render({ camera: shot.camera, samples: 2, onProgress });
      const began = performance.now();
      await after(600);
      expect(fraction).toBe(0);
      e.setThreads(2);
      const { seconds } = await rendering;
      expect((performance.now() - began) / 1000 - seconds).toBeGreaterThan(0.5);
      expect(fraction).toBe(1);
    } finally {
      await e.close();
    }
  });
  it('none: it can be cancelled all the same', async () => {
    const e = await openNodeEngine(1);
    try {
      await e.load(what(), shot.settings);
      e.setThreads(0);
      const stop = new AbortController();
      const rendering = e.render({ camera: shot.camera, samples: 2, signal: stop.signal });
      setTimeout(() => stop.abort(), 100);
      await expect(rendering).rejects.toMatchObject({ code: 'CANCELLED' });
    } finally {
      await e.close();
    }
  });
});
