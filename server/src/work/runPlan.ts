// What each trace of a plan would load, drop and take.
import {
  type NamedObjects,
  culls as cullsAnything,
  isInPart,
  isLeftOut,
  isSimplified,
  uncut,
} from '@variscen/core/cull';
import { type ResolvedState, SceneIndex, resolve } from '@variscen/core/looks';
import {
  type CameraSettings,
  type SceneDocument,
  animationData,
  cameraIn,
  croppedPx,
  poseFor,
  unpackGeometry,
} from '@variscen/core/scene';
import {
  MOST_JOB_BYTES,
  type CameraView,
  type Engine,
  EngineError,
  Look,
  type MemoryPlan,
  type JobCounts,
  type MeshCounts,
  type Selection,
  checkBudget,
  countDisplaced,
  countSelection,
  countedFor,
  displacedMeshes,
  hostBytes,
  type Relit,
  type RenderSettings,
  isLit,
  keepsGroups,
  keptApart,
  layOut,
  mixingBytes,
  poseIn,
  relit,
  settingsOf,
  storableMeshBytes,
  storableTextureBytes,
  trappedLamps,
} from '@variscen/engine';
import { namedFor } from '../files/cullPlans.ts';
import { AssetStore } from '../files/store.ts';
import type { PlanTask, PlannedTrace } from './tasks.ts';

const NAMED = 200; // dropped objects named in a plan

type TraceAsked = PlanTask['traces'][number];

export async function runPlan(t: PlanTask, onProgress: (fraction: number) => void): Promise<PlannedTrace[]> {
  const store = new AssetStore(t.assets);
  const document = JSON.parse(new TextDecoder().decode(await store.get(t.sceneHash))) as SceneDocument;
  const motion = await animationData(document, (hash) => store.get(hash));
  const displaced = new DisplacedCounts(store, document);
  const scene = new SceneIndex(document);
  const named = oncePerPlan(store, new Set(t.notSound));
  const out: PlannedTrace[] = [];
  let done = 0;
  try {
    for (const traces of alike(t.traces)) {
      const [{ trace: first }] = traces as [Asked, ...Asked[]];
      const state = resolve(scene, [{ id: 'snapshot', name: '', kind: 'base', changes: first.changes }]);
      const posed = poseFor(document, motion, first.camera).now.document;
      const planned = new PlannedLook(
        new Look(posed, undefined, state, isClay(first)),
        posed,
        document,
        t,
        displaced,
        named,
        (changes) => resolve(scene, [{ id: 'snapshot', name: '', kind: 'base', changes }]),
      );
      for (const { trace, place } of traces) {
        out[place] = await planned.of(trace);
        onProgress(++done / t.traces.length);
      }
    }
    return out;
  } finally {
    await displaced.close();
  }
}

/** A plan is read once, however many traces are of its camera. Of one that is gone it is said elsewhere. */
function oncePerPlan(
  store: AssetStore,
  notSound: ReadonlySet<string>,
): (camera: CameraSettings) => Promise<NamedObjects | undefined> {
  const known = new Map<string, Promise<NamedObjects | undefined>>();
  return (camera) => {
    const plan = camera.cull?.plan;
    if (plan === undefined || notSound.has(plan)) return Promise.resolve(undefined);
    const made = known.get(plan) ?? namedFor(camera, (hash) => store.get(hash));
    known.set(plan, made);
    return made;
  };
}

/**
 * Of what could be loaded in turns so much is held at least, unless rays need little of it: with less, a trace would
 * hardly go on.
 */
const LEAST_ROOM = 0.1;
/** Which of a mesh's attributes are wanted does not depend on the picture. */
const NO_PICTURE = { widthPx: 1, heightPx: 1, maxBounces: 1, clampIndirect: 0, seed: 0 };

interface Asked {
  readonly trace: TraceAsked;
  /** In the task. */
  readonly place: number;
}
/** Traces that see one look at one pose, which is then worked out once for all of them. */
function alike(traces: readonly TraceAsked[]): Iterable<readonly Asked[]> {
  const looks = new Map<TraceAsked['changes'], number>();
  const out = new Map<string, Asked[]>();
  traces.forEach((trace, place) => {
    const look = looks.get(trace.changes) ?? looks.set(trace.changes, looks.size).size - 1;
    const key = `${look} ${trace.camera.frame ?? 0} ${isClay(trace)}`;
    const known = out.get(key);
    if (known) known.push({ trace, place });
    else out.set(key, [{ trace, place }]);
  });
  return out.values();
}
const isClay = ({ profile }: TraceAsked): boolean => profile.integrator === 'clay';

/** What a plan says of a view, whatever size it is rendered at. */
interface Viewed extends Pick<
  PlannedTrace,
  'trapped' | 'missing' | 'objects' | 'dropped' | 'droppedCount' | 'simplifiedCount' | 'inPartCount'
> {
  readonly selection: Selection;
  readonly isLit: boolean;
  /** Of its lightings, by what they are made from. */
  readonly relit: Map<TraceAsked['lightings'], Omit<Relit, 'selection'>>;
  /** At some size, with nothing displaced. */
  readonly counts: JobCounts;
  /** Of its meshes; of its textures, by what they are capped to. */
  readonly storableMeshes: number;
  readonly storableTextures: Map<number | null, number>;
  /** What it takes at a size, by the settings that decide it. */
  readonly memory: Map<string, MemoryPlan>;
}

/** A look at one pose: what traces of it take. */
class PlannedLook {
  private readonly viewed = new WeakMap<CameraView, Viewed>();
  private readonly notSound: ReadonlySet<string>;
  constructor(
    private readonly look: Look,
    /** The scene as it is posed, where cameras may follow what moves. */
    private readonly posed: SceneDocument,
    private readonly document: SceneDocument,
    private readonly task: PlanTask,
    private readonly displaced: DisplacedCounts,
    private readonly named: (camera: CameraSettings) => Promise<NamedObjects | undefined>,
    private readonly stateOf: (changes: TraceAsked['changes']) => ResolvedState,
  ) {
    this.notSound = new Set(task.notSound);
  }

  async of(trace: TraceAsked): Promise<PlannedTrace> {
    const camera = cameraIn(this.posed, trace.camera);
    const culls = cullsAnything(camera);
    const view = this.viewOf(camera, await this.named(trace.camera));
    const { counts, limited } = await this.displaced.of(view.selection, trace);
    const memory = this.memoryOf(view, camera, trace, counts);
    let whole = memory;
    if (culls) {
      const all = this.viewOf(uncut(camera));
      whole = this.memoryOf(all, camera, trace, (await this.displaced.of(all.selection, trace)).counts);
    }
    const { processRestBytes: rest, budgetBytes } = this.task;
    const pixels = pixelsOf(trace);
    const mixing = trace.lightings ? mixingBytes(this.settingsFor(view, camera, trace), pixels) : 0;
    const processBytes = rest === null ? null : rest + hostBytes(memory.bytes, pixels) + mixing;
    const inTurns = {
      meshes: view.storableMeshes,
      textures: storableTexturesOf(view, trace.profile.textureCapPx),
    };
    const taken = withinBudget(memory, inTurns, budgetBytes, processBytes ?? 0);
    const partsBytes = partsOf(memory, inTurns).bytes;
    const turnsBytes = memory.totalBytes - taken.totalBytes;
    const isTight = turnsBytes > partsBytes * (1 - LEAST_ROOM);
    return {
      processBytes,
      bytes: taken.bytes,
      totalBytes: taken.totalBytes,
      partsBytes,
      turnsBytes,
      bytesWithoutCulling: whole.bytes,
      totalBytesWithoutCulling: whole.totalBytes,
      refusal: refusalOf(taken, budgetBytes, processBytes ?? 0),
      tight: isTight ? refusalOf(memory, budgetBytes, processBytes ?? 0) : null,
      unlit: this.unlitOf(view, trace),
      isSeen: this.look.isSeenBy(camera),
      limited,
      trapped: view.trapped,
      missing: view.missing,
      objects: view.objects,
      dropped: view.dropped,
      droppedCount: view.droppedCount,
      simplifiedCount: view.simplifiedCount,
      inPartCount: view.inPartCount,
      culls,
    };
  }

  /** @param camera where it stands in this pose */
  private viewOf(camera: CameraSettings, named?: NamedObjects): Viewed {
    const view = this.look.through(camera, named);
    const known = this.viewed.get(view);
    if (known) return known;
    const { nodes } = this.look.document;
    const selection = { ...view, pose: poseIn(this.look, camera, undefined) };
    const dropped = view.verdicts.filter(isLeftOut);
    const counts = countSelection(selection, NO_PICTURE, this.task.threads);
    const made: Viewed = {
      selection,
      counts,
      storableMeshes: storableMeshBytes(selection, counts),
      storableTextures: new Map(),
      memory: new Map(),
      relit: new Map(),
      isLit: isLit(selection),
      trapped: trappedLamps(selection),
      missing: missingOf(selection, this.document, this.notSound),
      objects: view.verdicts.reduce((n, v) => n + (v.keep ? 1 : 0), 0),
      dropped: dropped.slice(0, NAMED).map((v) => nodes[v.node]!.path),
      droppedCount: dropped.length,
      simplifiedCount: view.verdicts.filter(isSimplified).length,
      inPartCount: view.verdicts.filter(isInPart).length,
    };
    this.viewed.set(view, made);
    return made;
  }

  /** Of a trace of several lightings how its light is kept apart. */
  private relitOf(view: Viewed, { lightings, profile }: TraceAsked): Omit<Relit, 'selection'> | undefined {
    if (!lightings) return undefined;
    const { selection } = view;
    const known = view.relit.get(lightings);
    if (known) return known;
    const { parts, unlit } = relit(selection, lightings.map(this.stateOf), keepsGroups(profile, selection));
    const made = { parts, unlit };
    view.relit.set(lightings, made);
    return made;
  }
  private unlitOf(view: Viewed, trace: TraceAsked): readonly number[] {
    const shared = this.relitOf(view, trace);
    if (shared) return shared.unlit;
    return view.isLit ? [] : [0];
  }

  private posedIn({ selection }: Viewed, camera: CameraSettings): Selection {
    return { ...selection, pose: poseIn(this.look, camera, undefined) };
  }
  private settingsFor(view: Viewed, camera: CameraSettings, trace: TraceAsked): RenderSettings {
    const { profile, widthPx, heightPx } = trace;
    const parts = this.relitOf(view, trace)?.parts;
    return settingsOf(profile, { widthPx, heightPx }, keptApart(this.posedIn(view, camera), profile), parts);
  }

  private memoryOf(
    view: Viewed,
    camera: CameraSettings,
    trace: TraceAsked,
    counts: ReadonlyMap<number, MeshCounts>,
  ): MemoryPlan {
    const settings = this.settingsFor(view, camera, trace);
    // how finely meshes are displaced is each camera's own
    if (counts.size) return layOut(countSelection(this.posedIn(view, camera), settings, this.task.threads, counts));
    const key = JSON.stringify(settings);
    const known = view.memory.get(key) ?? layOut(countedFor(view.counts, view.selection, settings));
    view.memory.set(key, known);
    return known;
  }
}

function storableTexturesOf({ selection, storableTextures }: Viewed, capPx: number | null): number {
  const known = storableTextures.get(capPx) ?? storableTextureBytes(selection, capPx ?? undefined);
  storableTextures.set(capPx, known);
  return known;
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

interface InTurns {
  readonly meshes: number;
  readonly textures: number;
}
/** Of a job's meshes and textures what can be loaded part by part. */
function partsOf({ bytes }: Pick<MemoryPlan, 'bytes'>, inTurns: InTurns): InTurns & { readonly bytes: number } {
  const meshes = Math.min(inTurns.meshes, bytes.acceleration + bytes.vertices);
  const textures = Math.min(inTurns.textures, bytes.textures);
  return { meshes, textures, bytes: meshes + textures };
}

/** Meshes and textures that can be loaded part by part take what is left of the budget, and need not take more. */
function withinBudget(
  plan: Pick<MemoryPlan, 'bytes' | 'totalBytes'>,
  inTurns: InTurns,
  budgetBytes: number,
  processBytes: number,
): Pick<MemoryPlan, 'bytes' | 'totalBytes'> {
  const { acceleration, vertices, textures } = plan.bytes;
  const over = Math.max(0, plan.totalBytes - Math.min(budgetBytes - processBytes, MOST_JOB_BYTES));
  const parts = partsOf(plan, inTurns);
  if (over === 0 || over >= parts.bytes) return plan;
  const ofMeshes = Math.round((over * parts.meshes) / parts.bytes);
  const ofVertices = Math.round((ofMeshes * vertices) / Math.max(1, vertices + acceleration));
  const bytes = {
    ...plan.bytes,
    vertices: vertices - ofVertices,
    acceleration: acceleration - (ofMeshes - ofVertices),
    textures: textures - (over - ofMeshes),
  };
  return { bytes, totalBytes: plan.totalBytes - over };
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
    // reading textures and the engine take longer to load than thousands of plans without either
    const [{ openNodeEngine }, { decodeTexture }] = await Promise.all([
      import('@variscen/engine/node'),
      import('../files/decodeTexture.ts'),
    ]);
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
