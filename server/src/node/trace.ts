// Renders one leased trace: fetches what it needs, loads the engine, reports, and writes the files of its cells among
// this node's finished traces.
import type { Lease } from '@variscen/contract';
import { isInPart, isLeftOut, isSimplified, packMet } from '@variscen/core/cull';
import { type Grade, unpackLut } from '@variscen/core/image';
import { isFirstInLight } from '@variscen/core/plan';
import { type Change, type ResolvedState, SceneIndex, gradeOf, originalPath, resolve } from '@variscen/core/looks';
import { type SceneDocument, animationData, croppedPx, poseFor } from '@variscen/core/scene';
import {
  DRAWING,
  type Engine,
  type Selection,
  type SelectionData,
  attach,
  type LightParts,
  type Relit,
  engineCamera,
  finish,
  keepsGroups,
  keptApart,
  platePixels,
  relit,
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
import { type Graded, type Part, thumbnail, writeCell } from './pictureFiles.ts';
import { type Shot, type Work, bringFilm, helpFilm } from './slicedFilm.ts';

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
  return withTrace(lease, machine, progress, signal, async (opened) => {
    const counted = await traceFilm(opened, client, lease, machine, progress, signal);
    progress.enter('writing');
    return machine.finished.add(lease.traceId, async (fileOf) => {
      const told = await writePictures(opened, counted, lease, machine, fileOf, signal);
      return { ...told, peakBytes: await peakBytes() };
    });
  });
}

/** A trace in the engine, ready to be rendered. */
interface Opened {
  readonly engine: Engine;
  readonly selection: Selection;
  /** How many; the film is mixed of their light where they are several. */
  readonly lightings: number;
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
    const whole = select(pose, stateOf(lease.changes), lease.profile.integrator === 'clay', named);
    const selected = keptApart(whole, lease.profile);
    const shared = relitFor(lease, selected, stateOf);
    const selection = shared?.selection ?? selected;
    const budgetBytes = Math.min(machine.budgetBytes, lease.budgetBytes ?? Infinity);
    await loadInto(engine, selection, shared?.parts, sceneSources(document, asset), machine, lease, budgetBytes);
    const shot = {
      camera: engineCamera(pose.now.camera),
      nextCamera: pose.next && engineCamera(pose.next.camera),
    };
    const setPower = () => engine.setThreads(progress.threadsOf(machine.threads));
    power = setInterval(setPower, POWER_MS);
    setPower();
    const met = () => metOf(engine, selection, scene);
    const lightings = shared?.parts.mixes.length ?? 1;
    return await work({ engine, selection, lightings, shot, stateOf, asset, met });
  } finally {
    clearInterval(power);
    await engine.close();
  }
}

/** Where the cells are in several lightings. */
function relitFor(lease: Lease, selected: Selection, stateOf: Opened['stateOf']): Relit | undefined {
  const first = lease.cells.filter((_, cell) => isFirstInLight(lease.cells, cell));
  if (first.length < 2) return undefined;
  const inOrder = [...first].sort((a, b) => a.lighting - b.lighting);
  return relit(
    selected,
    inOrder.map((cell) => stateOf(cell.changes)),
    keepsGroups(lease.profile, selected),
  );
}

/** @returns what it took */
async function traceFilm(
  { engine, shot, asset, stateOf, met }: Opened,
  client: ServerClient,
  lease: Lease,
  machine: Machine,
  progress: SharedProgress,
  signal: AbortSignal,
): Promise<Work> {
  const part = croppedPx(lease, lease.camera.crop);
  const graded = await gradedBy(gradeOf(stateOf(lease.cells[0]!.changes)), asset);
  const preview = new Previews(engine, client, lease, graded, part);
  const { engineBuild, sliceTimes: times } = machine;
  const onPass = () => preview.show(progress);
  const work = await bringFilm({ engine, client, lease, shot, engineBuild, times, progress, signal, onPass, met });
  await preview.sent;
  return work;
}

/** The traced film finished in each of its lightings: denoised, drawn, in layers; and the files of their cells. */
async function writePictures(
  opened: Opened,
  work: Work,
  lease: Lease,
  machine: Machine,
  fileOf: FinishedTrace['file'],
  signal: AbortSignal,
): Promise<Omit<FinishedTrace['result'], 'peakBytes'>> {
  const { engine, selection, lightings, stateOf, asset } = opened;
  const part = croppedPx(lease, lease.camera.crop);
  const grades = await Promise.all(lease.cells.map((cell) => gradedBy(gradeOf(stateOf(cell.changes)), asset)));
  const plate = await platePixels(selection, async (texture) => decodeTexture(texture, await asset(texture.blob)));
  const droppedObjects = selection.verdicts.filter(isLeftOut).length;
  const simplifiedObjects = selection.verdicts.filter(isSimplified).length;
  const inPartObjects = selection.verdicts.filter(isInPart).length;
  const { mostTextureBytes: _, ...meshes } = engine.pieces();
  const counted = {
    engine: machine.engineBuild,
    drawing: DRAWING,
    samples: 0,
    noises: [] as (number | null)[],
    ...work,
    plannedBytes: engine.takenBytes(),
    droppedObjects,
    ...(simplifiedObjects > 0 && { simplifiedObjects }),
    ...(inPartObjects > 0 && { inPartObjects }),
    ...(lightings > 1 && { lightings }),
    ...(meshes.pieces + meshes.textures.levels > 0 && { meshes }),
  };
  for (let lighting = 0; lighting < lightings; lighting++) {
    counted.noises.push(engine.noise(lighting));
    if (lightings > 1) engine.mix(lighting);
    const picture = await finish(engine, selection, lease.profile, lease.camera, { signal, plate });
    counted.samples = picture.samples.most;
    const { leftOut } = picture;
    if (leftOut) Object.assign(counted, { leftOut: { ...leftOut, most: [...leftOut.most] } });
    for (const [cell, { lighting: own }] of lease.cells.entries())
      if (own === lighting)
        await writeCell(machine.exrFiles, lease, cell, { picture, part, grades, counted }, fileOf, signal);
  }
  return counted;
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
  lightParts: LightParts | undefined,
  sources: SelectionData,
  machine: Machine,
  { profile, widthPx, heightPx }: Lease,
  budgetBytes: number,
): Promise<void> {
  const { meshes } = selection.pose.now.document;
  const parts = machine.storedParts.forTrace();
  const data = parts.over(sources, meshes);
  const scene = await attach(selection, data, profile.displacement, heightPx).finally(() => parts.close());
  await engine.load(scene, settingsOf(profile, { widthPx, heightPx }, selection, lightParts), budgetBytes);
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
