// Views of the demo in the engine, as the suites of rendering take them.
import { Engine, type EngineCamera, type EngineScene, type RenderSettings, engineCamera } from '@variscen/engine';
import { openNodeEngine, spawnNodeThread } from '@variscen/engine/node';
import type { Demo } from './demoScene.ts';

const LOOK = ['Paper lanterns', 'Clear night'];
export const WIDE = 'Stall from the lane';
export const CLOSE = 'Counter, close';

export interface Shot {
  readonly scene: EngineScene;
  readonly camera: EngineCamera;
}
export async function shotOf(demo: Demo, name: string): Promise<Shot> {
  const settings = demo.cameras.find((c) => c.name === name)!;
  return { scene: (await demo.scene(LOOK, settings)).scene, camera: engineCamera(settings) };
}
export const basics = (widthPx: number, heightPx: number, extra: Partial<RenderSettings> = {}): RenderSettings => ({
  widthPx,
  heightPx,
  maxBounces: 6,
  clampIndirect: 0,
  seed: 1,
  ...extra,
});
export async function withEngine<T>(
  threads: number,
  shot: Shot,
  settings: RenderSettings,
  work: (e: Engine) => Promise<T>,
  module?: WebAssembly.Module,
): Promise<T> {
  const engine = module
    ? await Engine.open({ module, spawn: spawnNodeThread, threads })
    : await openNodeEngine(threads);
  try {
    await engine.load(shot.scene, settings);
    return await work(engine);
  } finally {
    await engine.close();
  }
}

/**
 * Least times of two kinds of short renders that go in turn: others on the machine slow the one or the other as it
 * happens.
 */
export async function leastInTurn(
  turns: number,
  one: () => Promise<number>,
  two: () => Promise<number>,
): Promise<readonly [number, number]> {
  await one();
  await two();
  let a = Infinity;
  let b = Infinity;
  for (let k = 0; k < turns; k++) {
    a = Math.min(a, await one());
    b = Math.min(b, await two());
  }
  return [a, b];
}
