// Renders one leased trace: fetches what it needs, loads the engine, reports, and writes the files of its cells among
// this node's finished traces.
import type { Lease } from '@variscen/contract';
import { isLeftOut, isSimplified, packMet } from '@variscen/core/cull';
import { type Grade, unpackLut } from '@variscen/core/image';
import { type Change, type ResolvedState, SceneIndex, gradeOf, originalPath, resolve } from '@variscen/core/looks';
import { type SceneDocument, animationData, croppedPx, poseFor } from '@variscen/core/scene';
import {
  DRAWING,
  type Engine,
  type Selection,
  type SelectionData,
  attach,
  engineCamera,
  finish,
  platePixels,
  select,
  settingsOf,
} from '@variscen/engine';
import { openNodeEngine } from '@variscen/engine/node';
import { namedFor } from '../files/cullPlans.ts';
import { decodeTexture } from '../files/decodeTexture.ts';
import { sceneSources } from '../files/sceneSources.ts';
import type { ServerClient } from './client.ts';
import type { FinishedTrace } from './finishedTraces.ts';
import type { SharedProgress } from './heartbeat/sharedProgress.ts';
import { peakBytes, resetPeak } from '../files/peakMemory.ts';
import type { Machine } from './machine.ts';
import { type Graded, type Part, type Traced, thumbnail, writeCell } from './pictureFiles.ts';
import { type Shot, bringFilm, helpFilm } from './slicedFilm.ts';

const PREVIEW_MS = 1500;
/** Between two looks at how many threads may work. */
const POWER_MS = 500;

/**
 * @throws EngineError of a scene that cannot be rendered; ServerRefusal of content that is missing; the signal's reason
 */
export async function trace(
  client: ServerClient,
  lease: Lease,
  machine: Machine,
  progress: SharedProgress,
  signal: AbortSignal,
): Promise<FinishedTrace> {
  await resetPeak();
  const traced = await traceFilm(client, lease, machine, progress, signal);
  progress.enter('writing');
  return machine.finished.add(lease.traceId, async (fileOf) => {
    for (const cell of lease.cells.keys()) await writeCell(machine.exrFiles, lease, cell, traced, fileOf, signal);
    return { ...traced.counted, peakBytes: await peakBytes() };
  });
}

/** A trace in the engine, ready to be rendered. */
interface Opened {
  readonly engine: Engine;
  readonly selection: Selection;
  readonly shot: Shot;
  readonly stateOf: (changes: readonly unknown[]) => ResolvedState;
  readonly asset: (hash: string) => Promise<Uint8Array>;
  /** Which nodes of the scene rays may have met so far. */
  readonly met: () => string;
}
/** The engine is closed when this returns. Its memory stays as long as something that lies in it is held. */
async function withTrace<T>(
  lease: Lease,
  machine: Machine,
  progress: SharedProgress,
  signal: AbortSignal,
  work: (opened: Opened) => Promise<T>,
): Promise<T> {
  const engine = await openNodeEngine(machine.threads, false, machine.meshCache);
  let power: NodeJS.Timeout | undefined;
  try {
    const asset = (hash: string) => machine.content.get(hash, signal);
    const document = JSON.parse(new TextDecoder().decode(await asset(lease.sceneHash))) as SceneDocument;
    const scene = new SceneIndex(document);
    const stateOf = (changes: readonly unknown[]) =>
      resolve(scene, [{ id: 'snapshot', name: '', kind: 'base', changes: changes as Change[] }]);
    const pose = poseFor(document, await animationData(document, asset), lease.camera);
    const named = await namedFor(lease.camera, asset);
    const selection = select(pose, stateOf(lease.changes), lease.profile.integrator === 'clay', named);
    const budgetBytes = Math.min(machine.budgetBytes, lease.budgetBytes ?? Infinity);
    await loadInto(engine, selection, sceneSources(document, asset), machine, lease, budgetBytes);
    const shot = {
      camera: engineCamera(pose.now.camera),
      nextCamera: pose.next && engineCamera(pose.next.camera),
    };
    const setPower = () => engine.setThreads(progress.threadsOf(machine.threads));
    power = setInterval(setPower, POWER_MS);
    setPower();
    const met = () => metOf(engine, selection, scene);
    return await work({ engine, selection, shot, stateOf, asset, met });
  } finally {
    clearInterval(power);
    await engine.close();
  }
}

function traceFilm(
  client: ServerClient,
  lease: Lease,
  machine: Machine,
  progress: SharedProgress,
  signal: AbortSignal,
): Promise<Traced> {
  return withTrace(lease, machine, progress, signal, async ({ engine, selection, shot, stateOf, asset, met }) => {
    // 1. Traced
    const part = croppedPx(lease, lease.camera.crop);
    const grades = await Promise.all(lease.cells.map((cell) => gradedBy(gradeOf(stateOf(cell.changes)), asset)));
    const preview = new Previews(engine, client, lease, grades[0]!, part);
    const { engineBuild, sliceTimes: times } = machine;
    const onPass = () => preview.show(progress);
    const work = await bringFilm({ engine, client, lease, shot, engineBuild, times, progress, signal, onPass, met });
    await preview.sent;

    // 2. Finished: denoised, drawn, in layers
    const plate = await platePixels(selection, async (texture) => decodeTexture(texture, await asset(texture.blob)));
    const picture = await finish(engine, selection, lease.profile, lease.camera, { signal, plate });
    const droppedObjects = selection.verdicts.filter(isLeftOut).length;
    const simplifiedObjects = selection.verdicts.filter(isSimplified).length;
    const samples = picture.samples.most;
    const { mostTextureBytes: _, ...meshes } = engine.pieces();
    return {
      picture,
      part,
      grades,
      counted: {
        engine: machine.engineBuild,
        drawing: DRAWING,
        samples,
        ...work,
        plannedBytes: engine.takenBytes(),
        droppedObjects,
        ...(simplifiedObjects > 0 && { simplifiedObjects }),
        ...(meshes.pieces + meshes.textures.levels > 0 && { meshes }),
        ...(picture.leftOut && { leftOut: { ...picture.leftOut, most: [...picture.leftOut.most] } }),
      },
    };
  });
}

/** Renders slices of another node's trace, until none is left that nobody renders. */
export async function helpWith(
  client: ServerClient,
  lease: Lease,
  machine: Machine,
  progress: SharedProgress,
  signal: AbortSignal,
): Promise<void> {
  await withTrace(lease, machine, progress, signal, ({ engine, shot, met }) => {
    const { engineBuild, sliceTimes: times } = machine;
    const onPass = () => Promise.resolve();
    return helpFilm({ engine, client, lease, shot, engineBuild, times, progress, signal, onPass, met });
  });
}

/** Copies count as what they are copies of; parts of an object together. */
function metOf(engine: Engine, { instances }: Selection, { nodes, document }: SceneIndex): string {
  const reached = engine.reached();
  const met = new Set<number>();
  instances.forEach((o, i) => {
    const node = reached[i] ? nodes.get(originalPath(o.object ?? o.name)) : undefined;
    if (node !== undefined) met.add(node);
  });
  return packMet(met, document.nodes.length);
}

/** The copy of the scene in this process is free again when this returns: the trace may take hours. */
async function loadInto(
  engine: Engine,
  selection: Selection,
  sources: SelectionData,
  machine: Machine,
  { profile, widthPx, heightPx }: Lease,
  budgetBytes: number,
): Promise<void> {
  const { meshes } = selection.pose.now.document;
  const parts = machine.storedParts.forTrace();
  const data = parts.over(sources, meshes);
  const scene = await attach(selection, data, profile.displacement, heightPx).finally(() => parts.close());
  await engine.load(scene, settingsOf(profile, { widthPx, heightPx }, selection), budgetBytes);
}

async function gradedBy(grade: Grade, asset: (hash: string) => Promise<Uint8Array>): Promise<Graded> {
  return { grade, lut: grade.lut ? unpackLut(await asset(grade.lut.hash), grade.lut) : undefined };
}

/** Judges and sends the picture so far now and then, one at a time; one that does not arrive is missed by nobody. */
class Previews {
  /** When the last one has left. */
  sent: Promise<void> = Promise.resolve();
  private lastAt = -Infinity;

  constructor(
    private readonly engine: Engine,
    private readonly client: ServerClient,
    private readonly lease: Lease,
    private readonly graded: Graded,
    private readonly part: Part,
  ) {}

  async show(progress: SharedProgress): Promise<void> {
    if (performance.now() - this.lastAt < PREVIEW_MS) return;
    this.lastAt = performance.now();
    progress.judged(this.engine.noise());
    await this.sent;
    const film = this.engine.film();
    this.sent = this.send(film).catch(() => undefined);
  }
  private async send(film: Float32Array): Promise<void> {
    await this.client.preview(this.lease, await thumbnail(film, this.graded, this.part));
  }
}
