// Renders what the stage shows with the batch's engine, restarting when it changes. First at half the size, to be there
// at once: at one sample, and at two, denoised;
// then whole, denoised, at 4, 8, 16 … samples.
import { type Grade, type Lut, toDisplay, unpackLut } from '@variscen/core/image';
import { type EnvironmentMap, unpackMap } from '@variscen/core/environment';
import { SceneIndex, resolve } from '@variscen/core/looks';
import { type Profile } from '@variscen/core/plan';
import {
  type DeformData,
  type Geometry,
  type SceneDocument,
  animationData,
  poseFor,
  unpackDeform,
  unpackGeometry,
} from '@variscen/core/scene';
import {
  type Engine,
  EngineError,
  MeshCache,
  attach,
  engineCamera,
  finish,
  platePixels,
  select,
  settingsOf,
} from '@variscen/engine';
import { asset } from '../api/assets.ts';
import { decode } from './decode.ts';
import type { FromLive, Wish } from './messages.ts';
import { openEngine } from './openEngine.ts';

const SAMPLES = 512;
const CACHE_BYTES = 2 ** 28;
const STAGES = [
  { scale: 0.5, samples: 2, shownFrom: 1 },
  { scale: 1, samples: SAMPLES, shownFrom: 4 },
] as const;
const LIVE: Profile = {
  id: 'live',
  name: 'Live',
  sizeFactor: 1,
  samples: SAMPLES,
  timeLimitS: null,
  maxBounces: 6,
  clampIndirect: 4,
  noise: null,
  denoise: 1,
  textureCapPx: 1024,
  displacement: { edgePx: 4, farM: 30, maxTriangles: 200_000 },
  aovs: [],
};
const port = self as unknown as Worker;
const tell = (m: FromLive, transfer: Transferable[] = []) => port.postMessage(m, transfer);

let engine: Promise<{ engine: Engine; threads: number }> | undefined,
  scene:
    | {
        hash: string;
        index: SceneIndex;
        geometry: Map<number, Geometry>;
        pixels: Map<string, Uint8Array>;
        shapes: Map<number, DeformData>;
        motion: Float32Array | undefined;
      }
    | undefined;
interface Film {
  readonly key: string;
  readonly widthPx: number;
  readonly heightPx: number;
  readonly film: Float32Array;
  readonly samples: number;
  readonly seconds: number;
  readonly memoryBytes: number;
  readonly threads: number;
  readonly finished: boolean;
}
let wanted: Wish | undefined;
let shown: Film | undefined;
let stop = new AbortController();
let running: Promise<void> = Promise.resolve();
const luts = new Map<string, Lut>();
const MAPS_KEPT = 4;
const skies = new Map<string, EnvironmentMap>();
const meshCache = new MeshCache(CACHE_BYTES);
const keyOf = (w: Wish): string =>
  JSON.stringify([w.sceneHash, w.changes, w.camera, w.widthPx, w.heightPx, w.samples, w.evidence]);

port.addEventListener('message', ({ data: wish }: MessageEvent<Wish>) => {
  const same = wanted && keyOf(wanted) === keyOf(wish);
  wanted = wish;
  if (same) {
    // another grade of the same light
    const film = shown?.key === keyOf(wish) ? shown : undefined;
    if (film)
      void lutOf(wish.grade, stop.signal)
        .then(() => {
          if (wanted === wish) show(wish, film);
        })
        .catch((e: unknown) => {
          if (wanted === wish)
            tell({ kind: 'failed', id: wish.id, message: e instanceof Error ? e.message : String(e) });
        });
    return;
  }
  stop.abort();
  const mine = (stop = new AbortController());
  running = running
    .then(() => (mine.signal.aborted ? undefined : render(wish, mine.signal)))
    .catch((e: unknown) => {
      if (mine.signal.aborted) return;
      if (!(e instanceof EngineError) || e.code === 'KERNEL_FAILED') startAfresh();
      tell({ kind: 'failed', id: wish.id, message: e instanceof Error ? e.message : String(e) });
    });
});

/** The LUT of a grade is there when this resolves. */
async function lutOf({ lut }: Grade, signal: AbortSignal): Promise<void> {
  if (lut && !luts.has(lut.hash)) luts.set(lut.hash, unpackLut(await assetBytes(lut.hash, signal), lut));
}

/** The next render opens an engine of its own; the threads of this one end. */
function startAfresh(): void {
  void engine?.then(
    (old) => old.engine.close(),
    () => undefined,
  );
  engine = undefined;
}

async function render(w: Wish, signal: AbortSignal): Promise<void> {
  shown = undefined;
  await lutOf(w.grade, signal);
  const { index, geometry, pixels, shapes, motion } = await open(w, signal);
  const document = index.document;
  const get = (hash: string) => assetBytes(hash, signal);
  const pose = poseFor(document, motion, w.camera);
  const selection = select(pose, resolve(index, [{ id: 'snapshot', name: '', kind: 'base', changes: w.changes }]));
  let done = 0;
  const of = selection.meshes.length + selection.textures.length;
  const one = async <K, T>(kept: Map<K, T>, i: K, load: () => Promise<T>): Promise<T> => {
    let x = kept.get(i);
    if (x === undefined) kept.set(i, (x = await load()));
    if (++done % 16 === 0 || done === of) tell({ kind: 'loading', id: w.id, done, of });
    return x;
  };
  const what = await attach(
    selection,
    {
      geometry: (i) =>
        one(geometry, i, async () => unpackGeometry(await get(document.meshes[i]!.blob), document.meshes[i]!)),
      deform: async (i) => {
        const m = document.meshes[i]!;
        let d = shapes.get(i);
        if (!d) shapes.set(i, (d = unpackDeform(await get(m.deform!.blob), m.deform!, m.vertices)));
        return d;
      },
      environment: async (sky) => {
        const known = skies.get(sky.hash) ?? unpackMap(await get(sky.hash), sky);
        skies.set(sky.hash, known);
        while (skies.size > MAPS_KEPT) skies.delete(skies.keys().next().value!);
        return known;
      },
      pixels: (t) => one(pixels, t.blob, async () => decode(t, await get(t.blob))),
    },
    LIVE.displacement,
    w.heightPx,
  );
  const plate = await platePixels(selection, async (t) => {
    const known = pixels.get(t.blob) ?? (await decode(t, await get(t.blob)));
    pixels.set(t.blob, known);
    return known;
  });
  engine ??= openEngine(w.threads, meshCache);
  const { engine: e, threads } = await engine;
  signal.throwIfAborted();
  const began = performance.now();
  const seconds = () => (performance.now() - began) / 1000;
  const camera = engineCamera(pose.now.camera);
  // a thread that is this one hears nothing during a pass, so its passes are short
  const samplesPerPass = globalThis.crossOriginIsolated ? SAMPLES : 1;
  const limit = w.samples;
  for (const { scale, samples: most, shownFrom } of limit === undefined
    ? STAGES
    : [{ scale: 1, samples: limit, shownFrom: limit }]) {
    const size = {
      widthPx: Math.max(1, Math.round(w.widthPx * scale)),
      heightPx: Math.max(1, Math.round(w.heightPx * scale)),
    };
    const plan = await e.load(what, { ...settingsOf(LIVE, size, selection), ...(w.evidence && { evidence: true }) });
    for (let samples = 0; samples < most;) {
      const first = samples;
      const more = Math.min(most - first, Math.max(1, first));
      await e.render({ camera, samples: more, samplesPerPass, signal }, first);
      samples += more;
      if (samples < shownFrom) continue;
      const film =
        samples > 1 || selection.inked.length || plate
          ? (await finish(e, selection, LIVE, w.camera, signal, plate)).film
          : e.picture().rgba;
      signal.throwIfAborted();
      shown = {
        key: keyOf(w),
        ...size,
        film,
        samples,
        seconds: seconds(),
        memoryBytes: plan.totalBytes,
        threads,
        finished: scale === 1 && samples === most,
      };
      show(wanted ?? w, shown);
    }
  }
  if (w.evidence) {
    const seen = e.evidence();
    tell({
      kind: 'seen',
      id: w.id,
      paths: [...new Set(selection.instances.flatMap((i, k) => (seen[k]!.seen > 0 ? [i.object ?? i.name] : [])))],
    });
  }
}

function show(w: Wish, { film, key: _, ...about }: Film): void {
  const rgba = displayed(film, w.grade);
  tell({ kind: 'picture', id: w.id, rgba, ...about }, [rgba.buffer]);
}
function displayed(film: Float32Array, grade: Grade): Uint8ClampedArray<ArrayBuffer> {
  const rgb = toDisplay(film, grade, grade.lut ? luts.get(grade.lut.hash) : undefined);
  const out = new Uint8ClampedArray((rgb.length / 3) * 4).fill(255);
  for (let i = 0; i < rgb.length / 3; i++) for (let c = 0; c < 3; c++) out[i * 4 + c] = rgb[i * 3 + c]!;
  return out;
}

async function open(w: Wish, signal: AbortSignal) {
  if (scene?.hash !== w.sceneHash) {
    const document = JSON.parse(new TextDecoder().decode(await assetBytes(w.sceneHash, signal))) as SceneDocument;
    scene = {
      hash: w.sceneHash,
      index: new SceneIndex(document),
      geometry: new Map(),
      pixels: new Map(),
      shapes: new Map(),
      motion: await animationData(document, (hash) => assetBytes(hash, signal)),
    };
  }
  return scene;
}
const assetBytes = async (hash: string, signal: AbortSignal): Promise<Uint8Array<ArrayBuffer>> =>
  new Uint8Array(await asset(hash, signal));
