// What each trace of a plan would load, drop and take.
import { SceneIndex, resolve } from '@variscen/core/looks';
import {
  type CameraSettings,
  type SceneDocument,
  animationData,
  croppedPx,
  poseFor,
  unpackGeometry,
} from '@variscen/core/scene';
import {
  type Engine,
  EngineError,
  type MemoryPlan,
  type MeshCounts,
  type Selection,
  checkBudget,
  countDisplaced,
  countSelection,
  displacedMeshes,
  hostBytes,
  isLit,
  layOut,
  select,
  settingsOf,
  trappedLamps,
} from '@variscen/engine';
import { openNodeEngine } from '@variscen/engine/node';
import { decodeTexture } from '../files/decodeTexture.ts';
import { AssetStore } from '../files/store.ts';
import type { PlanTask, PlannedTrace } from './tasks.ts';

/** Whether a frame is empty takes as long again as the plan of its trace: it is asked of so many. */
const FRAMES_LOOKED_AT = 50;
const NAMED = 200; // dropped objects named in a plan

export async function runPlan(t: PlanTask, onProgress: (fraction: number) => void): Promise<PlannedTrace[]> {
  const store = new AssetStore(t.assets);
  const document = JSON.parse(new TextDecoder().decode(await store.get(t.sceneHash))) as SceneDocument;
  const motion = await animationData(document, (hash) => store.get(hash));
  const scene = new SceneIndex(document);
  const notSound = new Set(t.notSound);
  const displaced = new DisplacedCounts(store, document);
  const out: PlannedTrace[] = [];
  try {
    for (const [i, trace] of t.traces.entries()) {
      const state = resolve(scene, [{ id: 'snapshot', name: '', kind: 'base', changes: trace.changes }]);
      const { profile } = trace;
      const isClay = profile.integrator === 'clay';
      const of = (camera: CameraSettings) => select(poseFor(document, motion, camera), state, isClay);
      const culled = of(trace.camera);
      const whole = trace.camera.cullMarginPct === null ? culled : of({ ...trace.camera, cullMarginPct: null });
      const framed = () => (trace.camera.cullMarginPct === null ? of({ ...trace.camera, cullMarginPct: 0 }) : culled);
      const dropped = culled.verdicts.filter((v) => !v.keep && v.reason === 'off-frame');
      const settings = settingsOf(profile, { widthPx: trace.widthPx, heightPx: trace.heightPx }, culled);
      const { counts, limited } = await displaced.of(culled, trace);
      const all = whole === culled ? counts : (await displaced.of(whole, trace)).counts;
      const a = layOut(countSelection(culled, settings, t.threads, counts));
      const b = layOut(countSelection(whole, settings, t.threads, all));
      const { processRestBytes: rest } = t;
      const processBytes = rest === null ? null : rest + hostBytes(a.bytes, pixelsOf(trace));
      out.push({
        processBytes,
        bytes: a.bytes,
        totalBytes: a.totalBytes,
        bytesWithoutCulling: b.bytes,
        totalBytesWithoutCulling: b.totalBytes,
        refusal: refusalOf(a, t.budgetBytes, processBytes ?? 0),
        isLit: isLit(culled),
        isSeen: i >= FRAMES_LOOKED_AT || isSeen(framed()),
        limited,
        trapped: trappedLamps(culled),
        missing: missingOf(culled, document, notSound),
        objects: culled.verdicts.filter((v) => v.keep).length,
        dropped: dropped.slice(0, NAMED).map((v) => document.nodes[v.node]!.path),
        droppedCount: dropped.length,
        culls: trace.camera.cullMarginPct !== null,
      });
      onProgress((i + 1) / t.traces.length);
    }
    return out;
  } finally {
    await displaced.close();
  }
}

/** Whether the frame may show something: with no margin about it, an object, what is set behind the scene, a sky. */
function isSeen(s: Selection): boolean {
  const hasSky = s.environment !== undefined || s.plate !== undefined || s.environmentInputs.camera !== undefined;
  return (
    hasSky ||
    s.instances.length > s.verdicts.filter((v) => v.keep).length ||
    s.verdicts.some((v) => v.keep && v.reason === 'in-frame')
  );
}

/** What of the scene's content a trace needs and cannot have. */
function missingOf(s: Selection, d: SceneDocument, notSound: ReadonlySet<string>): string[] {
  if (!notSound.size) return [];
  const out = new Set<string>();
  const look = (hash: string | undefined, what: string) => {
    if (hash !== undefined && notSound.has(hash))
      out.add(`${what} of the scene is gone from the data folder or damaged. Import the scene again.`);
  };
  for (const selected of s.meshes) {
    const mesh = d.meshes[selected.mesh];
    if (!mesh) continue; // the backdrop, which is made
    look(mesh.blob, `The mesh “${mesh.name}”`);
    look(mesh.deform?.blob, `What deforms the mesh “${mesh.name}”`);
  }
  for (const texture of s.textures) look(texture.blob, `The texture “${texture.name}”`);
  look(d.animation?.blob, 'The animation');
  return [...out];
}

/** Of the picture itself, which may be a part of the frame. */
function pixelsOf(trace: PlanTask['traces'][number]): number {
  const { widthPx, heightPx } = croppedPx(trace, trace.camera.crop);
  return widthPx * heightPx;
}

/** Why a job so large is not taken. */
function refusalOf(
  plan: Pick<MemoryPlan, 'bytes' | 'totalBytes'>,
  budgetBytes: number,
  processBytes: number,
): string | null {
  try {
    checkBudget(plan, budgetBytes, processBytes);
    return null;
  } catch (e) {
    if (e instanceof EngineError) return e.message;
    throw e;
  }
}

/** What displaced meshes take. An engine is opened when there are some. */
class DisplacedCounts {
  private engine: Engine | undefined;
  constructor(
    private readonly store: AssetStore,
    private readonly document: SceneDocument,
  ) {}

  async of(
    s: Selection,
    { profile, heightPx }: PlanTask['traces'][number],
  ): Promise<{ readonly counts: ReadonlyMap<number, MeshCounts>; readonly limited: readonly string[] }> {
    if (!s.meshes.some((m) => m.displaced)) return { counts: new Map(), limited: [] };
    const { document: d, store } = this;
    const made = await displacedMeshes(
      s,
      {
        geometry: async (i) => unpackGeometry(await store.get(d.meshes[i]!.blob), d.meshes[i]!),
        pixels: async (t) => decodeTexture(t, await store.get(t.blob)),
      },
      profile.displacement,
      heightPx,
    );
    return {
      counts: await countDisplaced(made, (this.engine ??= await openNodeEngine(1))),
      limited: [...made.values()].filter((m) => m.limited).map((m) => m.mesh.name),
    };
  }
  async close(): Promise<void> {
    await this.engine?.close();
  }
}
