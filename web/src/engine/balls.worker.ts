// Pictures of materials on balls, by the batch's engine, one after another; one that looks as before is not made again.
import { toDisplay, NEUTRAL_GRADE } from '@variscen/core/image';
import { type Change, SceneIndex, hashOf, resolve } from '@variscen/core/looks';
import type { SceneDocument, SceneTexture } from '@variscen/core/scene';
import { type Engine, type EngineMaterial, MeshCache, materialBall, resolveMaterial } from '@variscen/engine';
import { asset } from '../api/assets.ts';
import { decode } from './decode.ts';
import { openEngine } from './openEngine.ts';

export interface BallsWish {
  readonly id: number;
  readonly sceneHash: string;
  /** Of materials only. */
  readonly changes: readonly Change[];
  readonly names: readonly string[];
  readonly sizePx: number;
  readonly threads: number;
}
export type FromBalls =
  | { readonly id: number; readonly name: string; readonly rgba: Uint8ClampedArray<ArrayBuffer> }
  | { readonly id: number; readonly failed: string };

const SAMPLES = 32;
const TEXTURE_CAP_PX = 256;
const KEPT = 600;
const TEXTURES_KEPT = 12;
const port = self as unknown as Worker;
const meshCache = new MeshCache(2 ** 26);
const pictures = new Map<string, Uint8ClampedArray<ArrayBuffer>>();
const pixels = new Map<string, Promise<Uint8Array>>();
let scene: { hash: string; index: SceneIndex } | undefined;
let engine: Promise<{ engine: Engine }> | undefined;
let stop = new AbortController();
let running: Promise<void> = Promise.resolve();

port.addEventListener('message', ({ data }: MessageEvent<BallsWish>) => {
  stop.abort();
  const mine = (stop = new AbortController());
  running = running
    .then(() => (mine.signal.aborted ? undefined : make(data, mine.signal)))
    .catch((e: unknown) => {
      if (!mine.signal.aborted)
        port.postMessage({ id: data.id, failed: e instanceof Error ? e.message : String(e) } satisfies FromBalls);
    });
});
const bytesOf = async (hash: string): Promise<Uint8Array<ArrayBuffer>> => new Uint8Array(await asset(hash));

async function make(w: BallsWish, signal: AbortSignal): Promise<void> {
  if (scene?.hash !== w.sceneHash)
    scene = {
      hash: w.sceneHash,
      index: new SceneIndex(JSON.parse(new TextDecoder().decode(await bytesOf(w.sceneHash))) as SceneDocument),
    };
  const state = resolve(scene.index, [{ id: 'snapshot', name: '', kind: 'base', changes: w.changes }]);
  for (const name of w.names) {
    signal.throwIfAborted();
    if (!scene.index.material(name)) continue;
    const textures: SceneTexture[] = [];
    const material = resolveMaterial(state, name, (t) => {
      const at = textures.findIndex((x) => x.blob === t.blob);
      return at >= 0 ? at : textures.push(t) - 1;
    });
    const key = hashOf([{ ...material, name: '' }, textures.map((t) => t.blob), w.sizePx]);
    let picture = pictures.get(key);
    if (!picture) {
      picture = await render(material, textures, w, signal);
      pictures.set(key, picture);
      while (pictures.size > KEPT) pictures.delete(pictures.keys().next().value!);
    }
    port.postMessage({ id: w.id, name, rgba: picture } satisfies FromBalls);
  }
}
async function render(
  material: EngineMaterial,
  textures: readonly SceneTexture[],
  { sizePx, threads }: BallsWish,
  signal: AbortSignal,
): Promise<Uint8ClampedArray<ArrayBuffer>> {
  const loaded = await Promise.all(
    textures.map(async (t) => {
      let p = pixels.get(t.blob);
      if (!p) {
        p = bytesOf(t.blob).then((b) => decode(t, b));
        pixels.set(t.blob, p);
        p.catch(() => pixels.delete(t.blob));
      }
      return { name: t.name, width: t.width, height: t.height, data: await p };
    }),
  );
  while (pixels.size > TEXTURES_KEPT) pixels.delete(pixels.keys().next().value!);
  const ball = materialBall(material, loaded);
  const { engine: e } = await (engine ??= openEngine(threads, meshCache));
  await e.load(ball.scene, {
    widthPx: sizePx,
    heightPx: sizePx,
    maxBounces: 8,
    clampIndirect: 8,
    seed: 1,
    denoise: true,
    textureCapPx: TEXTURE_CAP_PX,
  });
  await e.render({ camera: ball.camera, samples: SAMPLES, signal });
  const rgb = (await e.denoise(signal)).rgb;
  const film = e.picture().rgba;
  const out = new Uint8ClampedArray(sizePx * sizePx * 4).fill(255);
  for (let i = 0; i < sizePx * sizePx; i++) for (let c = 0; c < 3; c++) film[i * 4 + c] = rgb[i * 3 + c]!;
  const shown = toDisplay(film, NEUTRAL_GRADE);
  for (let i = 0; i < sizePx * sizePx; i++) for (let c = 0; c < 3; c++) out[i * 4 + c] = shown[i * 3 + c]!;
  return out;
}
