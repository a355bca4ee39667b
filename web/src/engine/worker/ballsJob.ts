// Pictures of materials on balls, by the batch's engine, one after another; one that looks as before is not made again.
import { NEUTRAL_GRADE, toScreen } from '@variscen/core/image';
import { hashOf, resolve } from '@variscen/core/looks';
import type { SceneTexture } from '@variscen/core/scene';
import { type EngineMaterial, type EngineScene, materialBall, resolveMaterial } from '@variscen/engine';
import type { BallsWish, Said } from '../messages.ts';
import type { OpenScene } from './sceneStore.ts';
import type { Workshop } from './workshop.ts';

const SAMPLES = 32;
const TEXTURE_CAP_PX = 256;
const KEPT = 600;
const URGENCY = 1;
const pictures = new Map<string, Uint8ClampedArray<ArrayBuffer>>();

type Ball = ReturnType<typeof materialBall>;

export async function makeBalls(
  workshop: Workshop,
  wish: BallsWish,
  tell: (said: Said) => void,
  signal: AbortSignal,
): Promise<void> {
  const open = await workshop.scenes.scene(wish.sceneHash);
  const state = resolve(open.index, [{ id: 'snapshot', name: '', kind: 'base', changes: wish.changes }]);
  for (const name of wish.names) {
    signal.throwIfAborted();
    if (!open.index.material(name)) continue;
    const textures: SceneTexture[] = [];
    const material = resolveMaterial(state, name, (t) => {
      const at = textures.findIndex((x) => x.blob === t.blob);
      return at >= 0 ? at : textures.push(t) - 1;
    });
    const key = hashOf([{ ...material, name: '' }, textures.map((t) => t.blob), wish.sizePx]);
    const rgba = pictures.get(key) ?? (await render(workshop, await ballOf(open, material, textures), wish, signal));
    pictures.set(key, rgba);
    while (pictures.size > KEPT) pictures.delete(pictures.keys().next().value!);
    tell({ kind: 'ball', name, rgba });
  }
}

async function ballOf(open: OpenScene, material: EngineMaterial, textures: readonly SceneTexture[]): Promise<Ball> {
  const loaded = textures.map(async (t) => ({
    name: t.name,
    width: t.width,
    height: t.height,
    data: await open.pixels(t),
  }));
  return materialBall(material, await Promise.all(loaded));
}

async function render(
  workshop: Workshop,
  { scene, camera }: { readonly scene: EngineScene; readonly camera: Ball['camera'] },
  { sizePx }: BallsWish,
  signal: AbortSignal,
): Promise<Uint8ClampedArray<ArrayBuffer>> {
  const turn = await workshop.turns.take(URGENCY, signal);
  const settings = {
    widthPx: sizePx,
    heightPx: sizePx,
    maxBounces: 8,
    clampIndirect: 8,
    seed: 1,
    denoise: true,
    textureCapPx: TEXTURE_CAP_PX,
  };
  try {
    for (;;) {
      const { engine } = await workshop.engine();
      workshop.release();
      const stopped = AbortSignal.any([signal, turn.wanted]);
      try {
        await engine.load(scene, settings);
        await engine.render({ camera, samples: SAMPLES, signal: stopped });
        const { rgb } = await engine.denoise(stopped);
        const film = engine.film();
        for (let i = 0; i < sizePx * sizePx; i++) for (let c = 0; c < 3; c++) film[i * 4 + c] = rgb[i * 3 + c]!;
        return toScreen(film, NEUTRAL_GRADE);
      } catch (e) {
        signal.throwIfAborted();
        if (!turn.wanted.aborted) throw e;
      }
      await turn.give(); // a ball is begun again: it takes less than its film would to be put aside
      signal.throwIfAborted();
    }
  } catch (e) {
    if (!signal.aborted) workshop.afterFailure(e);
    throw e;
  } finally {
    turn.end();
  }
}
