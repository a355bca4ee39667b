// What cells need of their scene, measured once and kept until something changes that it depends on; and what cameras
// leave out by it.
import { randomUUID } from 'node:crypto';
import { access, mkdir, readFile, rename, rm, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { AppError, type CullPlanAnswer, type CullRequest, type Project } from '@variscen/contract';
import {
  type CullAsked,
  type PartsReached,
  type StandIn,
  culls,
  joinedMet,
  uncut,
  unpackCullPlan,
} from '@variscen/core/cull';
import { type Inputs, cellHash, traceHash } from '@variscen/core/looks';
import { type CameraCull, type CameraSettings, picturesAt } from '@variscen/core/scene';
import { DRAWING } from '@variscen/engine';
import { cacheBytes } from '../config.ts';
import { sha256 } from '../files/store.ts';
import { trimFolder } from '../files/trimFolder.ts';
import { runTask } from '../work/run.ts';
import type { CellRef, MeasuredLook } from '../work/looksTasks.ts';
import type { SplitOutcome } from '../work/tasks.ts';
import type { CameraService } from './cameras.ts';
import type { Context } from './context.ts';
import { asChanges } from './asChanges.ts';
import type { ProjectService } from './projects.ts';

/** Goes up when other things are measured, or measured otherwise. */
const MEASURED_AS = 7;
/** Of a sequence so many frames stand for all, the first and the last among them. */
const MOST_FRAMES = 5;
/** Boxes are looked at in more of them. */
const MOST_SPLIT_FRAMES = 50;
const MOST_KEPT_BYTES = 500e6;
const MOST_SIMPLIFIED = 100_000;
/** Of the time that a split takes, for looking at what is needed, where that is to do. */
const LOOKED_SHARE = 0.5;
/** What the engine may take of what a task may take. */
const ENGINE_SHARE = 0.7;

interface Looked {
  readonly inputs: readonly Inputs[];
  /** All frames, of which these are some. */
  readonly frames: readonly number[];
  /** Hashes of the pictures, were nothing left out. */
  readonly wholeHashes: readonly string[];
  /** Where what was measured is kept. */
  readonly file: string;
}

export class CullService {
  /** What is being measured, by file. */
  private readonly running = new Map<string, Promise<void>>();
  /** By hash and exponent of a mesh what it takes simplified; null: it is not worth it. The oldest first. */
  private readonly simplified = new Map<string, StandIn | null>();
  constructor(
    private readonly c: Context,
    private readonly projects: ProjectService,
    private readonly cameras: CameraService,
  ) {}

  /** What was measured of a camera, put together, as JSON. @throws AppError NOT_FOUND, NO_SCENE */
  async known(projectId: string, cameraId: string): Promise<string> {
    const { measured, unmeasured } = await this.looksOf(await this.projects.get(projectId), cameraId);
    const looks = measured.map((m) => ({ ...m, variant: '' }));
    const evidence = looks.length ? await this.c.looks.ask({ kind: 'evidence', projectId, evidence: looks }) : 'null';
    const ids = (of: readonly { readonly variantId: string }[]) => JSON.stringify(of.map((x) => x.variantId));
    return `{"evidence":${evidence},"measuredVariantIds":${ids(measured)},"unmeasuredVariantIds":${ids(unmeasured)}}`;
  }

  /** As JSON, measured where it is not known. Who else asks meanwhile waits for the same. */
  async measure(projectId: string, cell: CellRef, signal?: AbortSignal): Promise<string> {
    const looked = await this.look(await this.projects.get(projectId), cell);
    const said = (fraction: number) => this.c.events.emit({ type: 'evidence', projectId, ...cell, fraction });
    return this.measured(looked, said, signal);
  }
  private async measured(looked: Looked, said: (fraction: number) => void, signal?: AbortSignal): Promise<string> {
    const { file } = looked;
    for (;;) {
      const known = await kept(file);
      if (known !== null) return known;
      const other = this.running.get(file);
      if (other) {
        await other.catch(() => undefined); // cancelled by who asked first: it is begun again
        signal?.throwIfAborted();
        continue;
      }
      const mine = this.trace(looked, said, signal).finally(() => this.running.delete(file));
      this.running.set(file, mine);
      await mine;
    }
  }

  /** Writes a proof to a file. @returns its bytes */
  async prove(projectId: string, { cameraId, variantId }: CellRef, file: string, signal: AbortSignal): Promise<number> {
    const p = await this.projects.get(projectId);
    const camera = p.cameras.find((x) => x.id === cameraId);
    if (!camera) throw new AppError('NOT_FOUND', 'There is no such camera.');
    const frame = picturesAt(camera.handling.frames)[0]!;
    const { cells } = await this.c.looks.ask({ kind: 'cells', projectId, refs: [{ cameraId, variantId, frame }] });
    const { inputs } = cells[0]!;
    const task = {
      kind: 'proof',
      ...this.lookTask(inputs),
      camera: { ...inputs.camera, crop: undefined },
      file,
    } as const;
    const said = (fraction: number) =>
      this.c.events.emit({ type: 'evidence', projectId, cameraId, variantId, fraction });
    return (await runTask(task, said, signal)).bytes;
  }
  /** Writes what a camera needs to a file. @returns what is in it */
  async split(projectId: string, cell: CellRef, file: string, signal: AbortSignal): Promise<SplitOutcome> {
    const p = await this.projects.get(projectId);
    const camera = p.cameras.find((x) => x.id === cell.cameraId);
    if (!camera) throw new AppError('NOT_FOUND', 'There is no such camera.');
    const pictures = picturesAt(camera.handling.frames);
    const frames = some(pictures, MOST_SPLIT_FRAMES);
    const refs = frames.map((frame) => ({ ...cell, frame }));
    const { cells } = await this.c.looks.ask({ kind: 'cells', projectId, refs });
    const [first] = cells;
    const said = (fraction: number) => this.c.events.emit({ type: 'split', projectId, ...cell, fraction });
    const evidence = await this.evidenceForSplit(p, cell, (fraction) => said(fraction * LOOKED_SHARE), signal);
    return runTask(
      {
        kind: 'split',
        assets: this.c.assetsFolder,
        sceneHash: first!.inputs.scene,
        changes: asChanges(first!.inputs.values),
        cameraName: camera.name,
        cameras: cells.map(({ inputs }) => inputs.camera),
        evidence,
        isEveryFrameMeasured: pictures.length <= MOST_FRAMES,
        file,
      },
      (fraction) => said(LOOKED_SHARE + fraction * (1 - LOOKED_SHARE)),
      signal,
    );
  }
  /**
   * Where a camera leaves something out, what stands behind that is met as well: it is looked at as it is left.
   * @returns null where what it needs was not measured
   */
  private async evidenceForSplit(
    p: Project,
    cell: CellRef,
    said: (fraction: number) => void,
    signal: AbortSignal,
  ): Promise<string | null> {
    const { file } = await this.look(p, cell);
    if (!(await isThere(file))) return null;
    const [asLeft] = await this.looks(p, [cell], (camera) => camera);
    if (!asLeft!.inputs.some((i) => culls(i.camera))) return file;
    await this.measured(asLeft!, said, signal);
    return asLeft!.file;
  }
  private lookTask({ scene, values }: Inputs) {
    return {
      assets: this.c.assetsFolder,
      sceneHash: scene,
      changes: asChanges(values),
      folder: this.c.nodeFolder,
      mostPartsBytes: cacheBytes(),
      budgetBytes: Math.floor(this.c.memoryBudgetBytes * ENGINE_SHARE),
    };
  }

  async plan(projectId: string, cameraId: string): Promise<CullPlanAnswer | null> {
    const camera = (await this.projects.get(projectId)).cameras.find((x) => x.id === cameraId);
    if (!camera) throw new AppError('NOT_FOUND', 'There is no such camera.');
    const hash = camera.settings.cull?.plan;
    return hash === undefined ? null : (unpackCullPlan(await this.c.assets.get(hash)) as CullPlanAnswer);
  }

  /** One edit. @throws AppError WRONG_STATE where evidence is asked for that was not measured */
  async setPlan(projectId: string, request: CullRequest): Promise<void> {
    const p = await this.projects.get(projectId);
    const { cameraIds, variantIds, ...asked } = request;
    const own = [];
    for (const cameraId of cameraIds)
      own.push({ cameraId, settings: { cull: await this.cullFor(p, cameraId, variantIds, asked) } });
    const whose = cameraIds.length === 1 ? 'a camera leaves' : `${cameraIds.length} cameras leave`;
    await this.cameras.updateMany(projectId, cameraIds, { own }, `Change what ${whose} out`);
  }

  /**
   * A camera's setting of what it leaves out, with its rules as they are: what is asked for, and what it comes to.
   * @param variantIds absent: all that were measured
   * @throws AppError WRONG_STATE where evidence is asked for that was not measured
   */
  async cullFor(
    p: Project,
    cameraId: string,
    variantIds: readonly string[] | undefined,
    asked: CullAsked,
    signal?: AbortSignal,
  ): Promise<CameraCull | null> {
    const camera = p.cameras.find((x) => x.id === cameraId);
    if (!camera) throw new AppError('NOT_FOUND', 'One of these cameras is no longer there.');
    const projectId = p.id;
    const evidence = await this.evidenceFor(p, cameraId, variantIds);
    const needsEvidence = asked.barShare !== null || asked.simplifies;
    if (needsEvidence && !evidence.length) throw unmeasured(camera.name, 'any variant');
    const standIns = asked.simplifies ? await this.standIns(projectId, asked, evidence, signal) : {};
    const { plan, ...told } = await this.c.looks.ask({ kind: 'cullPlan', projectId, asked, evidence, standIns });
    const { plan: _, leaveOut: __, keep: ___, standIns: ____, ...rules } = camera.settings.cull ?? {};
    const named = Object.fromEntries(Object.entries(told).filter(([, hash]) => hash !== null));
    const isNothing = !needsEvidence && !Object.keys(named).length;
    const cull: CameraCull = isNothing ? rules : { ...rules, plan, ...named };
    return Object.keys(cull).length ? cull : null;
  }

  /** Of the meshes that may be simplified those that are worth it. What was made once is known. */
  private async standIns(
    projectId: string,
    asked: CullAsked,
    evidence: readonly MeasuredLook[],
    signal?: AbortSignal,
  ): Promise<Record<string, StandIn>> {
    const { sceneHash, wanted } = await this.c.looks.ask({ kind: 'standIns', projectId, asked, evidence });
    const missing = wanted.filter((w) => !this.simplified.has(w.join(' ')));
    if (missing.length) {
      const task = { kind: 'standIns', assets: this.c.assetsFolder, sceneHash, wanted: missing } as const;
      const made = await runTask(task, undefined, signal);
      missing.forEach((w, i) => this.simplified.set(w.join(' '), made[i]!));
    }
    const found: Record<string, StandIn> = {};
    for (const w of wanted) {
      const standIn = this.simplified.get(w.join(' '));
      if (standIn) found[w[0]] = standIn;
    }
    for (const [known] of this.simplified) {
      if (this.simplified.size <= MOST_SIMPLIFIED) break;
      this.simplified.delete(known);
    }
    return found;
  }

  /** Files of evidence. @param variantIds absent: all that were measured */
  private async evidenceFor(
    p: Project,
    cameraId: string,
    variantIds: readonly string[] | undefined,
  ): Promise<MeasuredLook[]> {
    const { measured, unmeasured: missing } = await this.looksOf(p, cameraId, variantIds);
    const nameOf = (id: string) => p.variants.find((v) => v.id === id)!.name;
    const [first] = missing;
    if (variantIds && first)
      throw unmeasured(p.cameras.find((x) => x.id === cameraId)!.name, `“${nameOf(first.variantId)}”`);
    return measured.map(({ file, variantId, met }) => ({ file, met, variant: nameOf(variantId) }));
  }
  private async looksOf(p: Project, cameraId: string, variantIds?: readonly string[]) {
    if (!p.cameras.some((x) => x.id === cameraId)) throw new AppError('NOT_FOUND', 'There is no such camera.');
    const wanted = variantIds ?? p.variants.filter((v) => !v.excludedCameraIds.includes(cameraId)).map((v) => v.id);
    if (wanted.some((id) => !p.variants.some((v) => v.id === id)))
      throw new AppError('NOT_FOUND', 'One of these variants is no longer there.');
    const looked = await this.looks(
      p,
      wanted.map((variantId) => ({ cameraId, variantId })),
    );
    const met = await this.metWhole(p, cameraId, wanted, looked);
    const found = [];
    for (const [i, { file }] of looked.entries())
      found.push({ variantId: wanted[i]!, file, met: met[i]!, isKnown: await isThere(file) });
    return { measured: found.filter((x) => x.isKnown), unmeasured: found.filter((x) => !x.isKnown) };
  }

  /**
   * Of each look what whole renders of it may have met: of which nothing was left out, and nothing has changed since.
   */
  private async metWhole(
    p: Project,
    cameraId: string,
    variantIds: readonly string[],
    looked: readonly Looked[],
  ): Promise<(string | null)[]> {
    const rows = await this.c.db.query<{ variantId: string; met: string }[]>(
      `SELECT variant_id "variantId", met FROM render
        WHERE project_id = $1 AND camera_id = $2 AND variant_id = ANY($3) AND hash = ANY($4) AND met IS NOT NULL`,
      [p.id, cameraId, variantIds, looked.flatMap((l) => l.wholeHashes)],
    );
    return variantIds.map((id) => {
      const own = rows.filter((r) => r.variantId === id).map((r) => r.met);
      return own.reduce<string | null>((all, met) => (all === null ? met : (joinedMet(all, met) ?? all)), null);
    });
  }

  private async look(p: Project, cell: CellRef): Promise<Looked> {
    return (await this.looks(p, [cell]))[0]!;
  }
  /**
   * The pictures of cells: one question for all of them.
   * @param as how much their cameras leave out; nothing, if it is not said
   */
  private async looks(
    p: Project,
    wanted: readonly CellRef[],
    as: (camera: CameraSettings) => CameraSettings = uncut,
  ): Promise<Looked[]> {
    const pictures = wanted.map(({ cameraId }) => {
      const camera = p.cameras.find((x) => x.id === cameraId);
      if (!camera) throw new AppError('NOT_FOUND', 'There is no such camera.');
      return picturesAt(camera.handling.frames);
    });
    const refs = wanted.map(({ cameraId, variantId }, i) =>
      some(pictures[i]!, MOST_FRAMES).map((frame) => ({ cameraId, variantId, frame })),
    );
    const { cells } = await this.c.looks.ask({ kind: 'cells', projectId: p.id, refs: refs.flat() });
    let first = 0;
    return refs.map(({ length }, i) => {
      const own = cells.slice(first, (first += length)).map((cell) => cell.inputs);
      const wholeHashes = own.map((inputs) => cellHash({ ...inputs, camera: uncut(inputs.camera) }));
      const inputs = own.map((x) => ({ ...x, camera: { ...as(x.camera), crop: undefined } }));
      const frames = pictures[i]!.map((frame) => frame ?? 0);
      const about = [MEASURED_AS, DRAWING, frames.join(), ...inputs.map(traceHash)].join(' ');
      return {
        inputs,
        frames,
        wholeHashes,
        file: join(this.c.evidenceFolder, 'known', sha256(new TextEncoder().encode(about))),
      };
    });
  }

  /** Of each cell what it takes to render, as it was measured. */
  async costs(p: Project, cells: readonly CellRef[]): Promise<CellCost[]> {
    return Promise.all((await this.looks(p, cells)).map(({ file }) => costOf(file)));
  }

  private async trace(
    { inputs, frames, file }: Looked,
    said: (fraction: number) => void,
    signal?: AbortSignal,
  ): Promise<void> {
    const [first] = inputs as [Inputs];
    const temporary = `${file}-${randomUUID()}`;
    await mkdir(join(this.c.evidenceFolder, 'known'), { recursive: true });
    try {
      const { seconds, lightPaths, reached } = await runTask(
        {
          kind: 'probe',
          ...this.lookTask(first),
          cameras: inputs.map((i) => i.camera),
          frames,
          file: temporary,
        },
        said,
        signal,
      );
      await writeFile(costFile(file), JSON.stringify({ pathS: seconds / lightPaths, reached }));
      await rename(temporary, file);
      await trimFolder(join(this.c.evidenceFolder, 'known'), MOST_KEPT_BYTES);
    } finally {
      await rm(temporary, { force: true });
    }
  }
}

/** What a measurement tells plans lies beside what was found: that may be megabytes. */
export interface CellCost {
  /** How long a light path takes, seconds. */
  readonly pathS: number | null;
  /** null where it is not known. */
  readonly reached: PartsReached | null;
}
const costFile = (file: string): string => `${file}.cost`;
async function costOf(file: string): Promise<CellCost> {
  try {
    const { pathS, reached } = JSON.parse(await readFile(costFile(file), 'utf8')) as CellCost;
    return { pathS: pathS !== null && pathS > 0 && Number.isFinite(pathS) ? pathS : null, reached: reached ?? null };
  } catch {
    return { pathS: null, reached: null };
  }
}

/** Evenly spread. */
function some(pictures: readonly (number | null)[], most: number): readonly (number | null)[] {
  if (pictures.length <= most) return pictures;
  const step = (pictures.length - 1) / (most - 1);
  return Array.from({ length: most }, (_, i) => pictures[Math.round(i * step)]!);
}

const isThere = (file: string): Promise<boolean> =>
  access(file).then(
    () => true,
    () => false,
  );
const unmeasured = (camera: string, variant: string) =>
  new AppError(
    'WRONG_STATE',
    `What “${camera}” needs in ${variant} was not measured since the last change.`,
    'Measure it, then plan again.',
  );

async function kept(file: string): Promise<string | null> {
  const text = await readFile(file, 'utf8').catch((e: NodeJS.ErrnoException) => {
    if (e.code !== 'ENOENT') throw e;
    return null;
  });
  const now = new Date();
  if (text !== null) await utimes(file, now, now).catch(() => undefined);
  return text;
}
