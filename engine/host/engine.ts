// Loads a scene into engine memory and renders it. One Engine holds one job at a time; close() gives everything back.
// All that can be asked of it stands here, a few lines each; how it is done has files of its own.
import * as K from '../kernel/layout/index.ts';
import { withAreaLights } from './areaLights.ts';
import { buildAlone, buildMeshes } from './builtMeshes.ts';
import { checkScene, checkSettings } from './check.ts';
import { countScene, objectsAskedAbout } from './count.ts';
import { type Denoised, denoiseFilm } from './denoiseFilm.ts';
import { divideMesh, pieceOfTriangles } from './divide.ts';
import { fillTables } from './energyTables.ts';
import { type Evidence, type PieceEvidence, readEvidence, readPieceEvidence } from './evidence.ts';
import { type Picture, readFilm, readGroupHalved, readPicture, takePicture } from './film.ts';
import { bandOf, bytesOf } from './filmBands.ts';
import { type TileRows, filmGridOf, isCut, tilesOf } from './filmGrid.ts';
import { filmNoise } from './filmNoise.ts';
import { type Loaded, isOfAnotherSize, maskWord } from './loaded.ts';
import { type LoadedCounts, LoadedParts, type MetPiece } from './loadedParts.ts';
import { ENERGY_BYTES, denoiseScratchBytes, planMemory } from './memoryPlan.ts';
import type { MemoryBytes, MemoryPlan } from './memoryPlaces.ts';
import { checkBudget } from './budget.ts';
import type { MeshCache } from './meshCache.ts';
import { mixFilm } from './mixedFilm.ts';
import { type NearScene, nearMesh, nearScene } from './nearScene.ts';
import { packJob, packScene } from './pack.ts';
import { packTextures } from './packTextures.ts';
import { KernelPool, type SpawnThread } from './pool.ts';
import { Power } from './power.ts';
import { EngineError, type EngineMesh, type EngineScene, type SceneMesh, isStored } from './scene.ts';
import { type RenderSettings, planesOf } from './renderSettings.ts';
import { type RenderOptions, type RenderStats, traceSamples } from './traceSamples.ts';
import { viewsOf } from './views.ts';

export interface EngineOptions {
  readonly module: WebAssembly.Module;
  readonly spawn: SpawnThread;
  readonly threads: number;
  /** Structures of meshes from earlier jobs. */
  readonly meshCache?: MeshCache | undefined;
}

/** A scene as it is packed. */
interface Prepared extends NearScene {
  /** Bytes of each mesh's structure. */
  readonly acceleration: readonly number[];
}

export class Engine {
  private job: Loaded | undefined;
  private readonly prepared = new WeakMap<EngineScene<SceneMesh>, Prepared>();
  /** Light can be added to it; it is that of a mix; or planes that no mix writes hold means, no sums. */
  private stage: 'open' | 'mixed' | 'taken' = 'open';
  private readonly power: Power;
  private constructor(
    private readonly pool: KernelPool,
    private readonly meshCache: MeshCache | undefined,
  ) {
    this.power = new Power(pool.size);
  }

  static async open({ module, spawn, threads, meshCache }: EngineOptions): Promise<Engine> {
    const pool = await KernelPool.open(spawn, module, threads);
    if (
      (await pool.call(0, 'energyTableBytes', 0)) !== ENERGY_BYTES.plain ||
      (await pool.call(0, 'energyTableBytes', 1)) !== ENERGY_BYTES.plain + ENERGY_BYTES.stretched ||
      (await pool.call(0, 'glassTableBytes')) !== ENERGY_BYTES.glass ||
      (await pool.call(0, 'denoiseScratchBytes', 1000, 2)) !== denoiseScratchBytes(1000, 2)
    ) {
      await pool.close();
      throw new EngineError('KERNEL_FAILED', 'The kernel is of another build than the program around it. Build again.');
    }
    return new Engine(pool, meshCache);
  }

  close(): Promise<void> {
    this.job?.parts.letAllGoOn();
    return this.pool.close();
  }

  /**
   * How many of its threads may render from now on: none up to all. What is rendering goes on with so many within a
   * second or so, and loses nothing.
   */
  setThreads(threads: number): void {
    this.power.set(Math.max(0, Math.min(this.pool.size, Math.floor(threads))));
  }

  private turn: Promise<unknown> = Promise.resolve();
  /** One after another: measuring, loading and rendering use the same memory. */
  private inTurn<T>(work: () => Promise<T>): Promise<T> {
    const mine = this.turn.then(work, work);
    this.turn = mine.catch(() => undefined);
    return mine;
  }

  /** Bytes of a mesh's acceleration structure, by building it. The same mesh always gives the same number. */
  measureMesh(mesh: EngineMesh): Promise<number> {
    return this.inTurn(() => this.measure(nearMesh(mesh).mesh));
  }
  private async measure(mesh: EngineMesh): Promise<number> {
    this.job = undefined; // what was loaded is written over
    return (await buildAlone(this.pool, mesh)).bytes;
  }

  /**
   * A mesh with its structure, as bytes that are read in pieces: given as a stored mesh to load(), its triangles are
   * loaded when rays reach them. The same mesh always gives the same bytes.
   */
  store(given: EngineMesh): Promise<Uint8Array> {
    return this.inTurn(async () => {
      this.job = undefined; // what was loaded is written over
      const { mesh, movedBy } = nearMesh(given);
      const { at, bytes } = await buildAlone(this.pool, mesh);
      return divideMesh(mesh, new Uint8Array(this.pool.memory.buffer, at, bytes), at, movedBy);
    });
  }
  /** For each triangle of a mesh the number of its piece, as store() divides it. */
  divide(given: EngineMesh): Promise<Uint32Array> {
    return this.inTurn(async () => {
      this.job = undefined; // what was loaded is written over
      const { mesh } = nearMesh(given);
      const { at, bytes } = await buildAlone(this.pool, mesh);
      return pieceOfTriangles(mesh, new Uint8Array(this.pool.memory.buffer, at, bytes), at);
    });
  }

  /**
   * Checks, measures, plans, packs and builds. Returns what it takes. A scene that is loaded already and differs in the
   * size of its film alone is not packed again.
   * @throws EngineError naming the object, or OUT_OF_MEMORY before anything large is allocated
   */
  load(scene: EngineScene<SceneMesh>, settings: RenderSettings, budgetBytes = Infinity): Promise<MemoryPlan> {
    return this.inTurn(() => this.loadNow(scene, settings, budgetBytes));
  }
  private async loadNow(
    given: EngineScene<SceneMesh>,
    settings: RenderSettings,
    budgetBytes: number,
  ): Promise<MemoryPlan> {
    checkSettings(settings);
    const there = this.job;
    const prepared = this.prepared.get(given) ?? (await this.prepare(given));
    const { scene, origin, acceleration } = prepared;
    const plan = planMemory(countScene(scene, settings, this.pool.size, acceleration), budgetBytes);
    checkBudget(plan, budgetBytes);
    if (Number.isFinite(budgetBytes)) this.meshCache?.limit(budgetBytes - plan.totalBytes);
    this.job = undefined;
    if (there?.source.deref() === given && isOfAnotherSize(there, plan, settings))
      return this.resize(there, scene, plan, settings);
    this.pool.reserve(plan.totalBytes);
    const v = viewsOf(this.pool.memory);
    const roots = await buildMeshes(this.pool, this.meshCache, scene.meshes, plan, acceleration);
    const leftOut = objectsAskedAbout(scene, settings);
    const parts = new LoadedParts(this.pool.memory, plan, this.pool.size, scene, leftOut);
    this.pool.onStand = () => parts.tend();
    packScene(v, scene, plan, settings, roots);
    await packTextures(v, scene, plan);
    await fillTables(this.pool, plan, scene);
    const n = scene.instances.length;
    const placed = n + leftOut.length;
    v.u32[(plan.job + K.JOB.ROOT) >>> 2] =
      placed === 0
        ? 0
        : await this.pool.call(
            0,
            'buildInstances',
            plan.instances,
            placed,
            plan.build.records,
            plan.build.scratch,
            plan.topLevel,
          );
    const source = new WeakRef(given);
    const meshes = scene.instances.map((o) => o.mesh);
    this.job = { plan, settings, instances: n, origin, parts, meshes, source };
    this.clearFilm();
    return plan;
  }
  /** Checked, near the origin, and measured. */
  private async prepare(given: EngineScene<SceneMesh>): Promise<Prepared> {
    checkScene(given);
    const near = nearScene(withAreaLights(given));
    const acceleration: number[] = [];
    for (const m of near.scene.meshes)
      acceleration.push(isStored(m) ? 0 : (m.accelerationBytes ?? (await this.measure(m))));
    const prepared = { ...near, acceleration };
    this.prepared.set(given, prepared);
    return prepared;
  }
  /** What is loaded stays, and what comes after it is laid out anew. */
  private resize(there: Loaded, scene: EngineScene<SceneMesh>, plan: MemoryPlan, settings: RenderSettings): MemoryPlan {
    this.pool.reserve(plan.totalBytes);
    packJob(viewsOf(this.pool.memory), scene, plan, settings);
    const parts = new LoadedParts(this.pool.memory, plan, this.pool.size, scene, objectsAskedAbout(scene, settings));
    this.pool.onStand = () => parts.tend();
    this.job = { ...there, plan, settings, parts };
    this.clearFilm();
    return plan;
  }
  clearFilm(): void {
    const { plan, settings, instances } = this.loaded();
    this.stage = 'open';
    const grid = filmGridOf(settings);
    const pixels = grid.widthPx * grid.heightPx;
    const v = viewsOf(this.pool.memory);
    v.f32.fill(0, plan.film >>> 2, (plan.film >>> 2) + pixels * 4);
    for (let i = 0; i < instances; i++) v.u32[maskWord(plan, i)]! &= ~K.INST.REACHED;
    const end = plan.tileState + tilesOf(grid) * 4;
    const first = planesOf(settings)[0];
    v.u32.fill(0, (first ? plan.planes[first]! : plan.tileState) >>> 2, end >>> 2); // by bytes it takes far longer
    if (settings.evidence)
      for (let t = 0; t < this.pool.size; t++) {
        const scratch = plan.scratch + t * plan.scratchStride;
        v.u32.fill(0, (scratch + plan.evidenceAt) >>> 2, (scratch + plan.trailAt) >>> 2);
      }
  }

  /** The film so far, as means over each tile's samples. */
  picture(): Picture {
    const { plan, settings, origin } = this.loaded();
    return readPicture(viewsOf(this.pool.memory), plan, settings, origin);
  }

  /**
   * Makes the film that of a mix of settings.parts, with its planes, as if it had been traced so. It can be made that
   * of another mix afterwards; nothing can be added to it.
   */
  mix(mix: number): void {
    const { plan, settings } = this.loaded();
    const { parts } = settings;
    if (!parts?.mixes[mix]) throw new EngineError('BAD_SETTINGS', 'This film was not traced for such a lighting.');
    if (this.stage === 'open') this.stage = 'mixed';
    mixFilm(viewsOf(this.pool.memory), plan, { ...settings, parts }, mix);
  }

  /** The film so far without its planes: r, g, b in nits and coverage 0…1 a pixel. */
  film(): Float32Array {
    const { plan, settings } = this.loaded();
    return readFilm(viewsOf(this.pool.memory), plan, settings);
  }
  /**
   * The light of a group of the film so far, as it is traced: r, g, b in nits for each square of two by two pixels.
   * Needs settings.lightGroups at load.
   */
  groupHalved(group: number): Float32Array {
    const { plan, settings } = this.loaded();
    return readGroupHalved(viewsOf(this.pool.memory), plan, settings, group);
  }
  /**
   * Relative noise of the film so far, before denoising; null while it cannot be known.
   * @param mix which of the film's lightings; undefined: that of the noisiest
   */
  noise(mix?: number): number | null {
    const { plan, settings } = this.loaded();
    return filmNoise(viewsOf(this.pool.memory), plan, settings, mix);
  }
  /**
   * The film as means where it lies, without a copy: a picture with all its planes takes hundreds of megabytes. Nothing
   * can be added to the film afterwards, and the picture is gone when the film is mixed anew, or the engine is closed
   * or loads again.
   */
  takePicture(): Picture {
    const { plan, settings, origin } = this.loaded();
    // lines are put together where they lie: what is taken of a part of the film cannot be mixed anew
    if (settings.parts && isCut(settings)) return this.picture();
    const isAgain = this.stage === 'taken';
    if (isAgain && !settings.parts)
      throw new EngineError('BAD_SETTINGS', 'The film was taken: what lies there are means already.');
    this.stage = 'taken';
    return takePicture(viewsOf(this.pool.memory), plan, settings, origin, isAgain);
  }

  /** The film so far as it lies in memory: put back after the same job is loaded again, more can be added to it. */
  filmState(): Uint8Array<ArrayBuffer> {
    const { at, end } = this.filmSpan();
    return new Uint8Array(this.pool.memory.buffer, at, end - at).slice();
  }
  /** @param state of the same scene, settings and number of threads. @throws EngineError BAD_SETTINGS */
  putFilmState(state: Uint8Array): void {
    const { at, end } = this.filmSpan();
    if (state.length !== end - at) throw new EngineError('BAD_SETTINGS', 'The film is of another job.');
    new Uint8Array(this.pool.memory.buffer, at, end - at).set(state);
    this.stage = 'open';
  }
  /** The film, its planes and the state of its tiles lie one after another. */
  private filmSpan(): { readonly at: number; readonly end: number } {
    const { plan, settings } = this.loaded();
    return { at: plan.film, end: plan.tileState + tilesOf(filmGridOf(settings)) * 4 };
  }

  /** Of the film and its planes. */
  filmBytes(): number {
    const { at, end } = this.filmSpan();
    return end - at;
  }

  /** How many rows of tiles the film has: what slices are cut from. */
  tileRows(): number {
    return filmGridOf(this.loaded().settings).tilesDown;
  }
  /** The film of some rows of tiles, as it lies in memory: put into another film of the same job, it is that film's. */
  band(rows: TileRows): Uint8Array<ArrayBuffer> {
    const { plan, settings } = this.loaded();
    const segments = bandOf(plan, settings, rows);
    const out = new Uint8Array(bytesOf(segments));
    let top = 0;
    for (const { at, bytes } of segments) {
      out.set(new Uint8Array(this.pool.memory.buffer, at, bytes), top);
      top += bytes;
    }
    return out;
  }
  /** @param film band() of the same scene, settings and rows. @throws EngineError BAD_SETTINGS */
  putBand(rows: TileRows, film: Uint8Array): void {
    const { plan, settings } = this.loaded();
    const segments = bandOf(plan, settings, rows);
    if (film.length !== bytesOf(segments)) throw new EngineError('BAD_SETTINGS', 'The slice is of another job.');
    let top = 0;
    for (const { at, bytes } of segments) {
      new Uint8Array(this.pool.memory.buffer, at, bytes).set(film.subarray(top, top + bytes));
      top += bytes;
    }
  }

  /** What the job has taken: as planned, but for pieces of stored meshes that were never in memory together. */
  takenBytes(): MemoryBytes {
    const { plan, parts } = this.loaded();
    const { bytes, piecesBytes, piecesShare: share } = plan;
    if (!piecesBytes) return bytes;
    const { mostBytes, mostTextureBytes } = parts.counts();
    const ofMeshes = mostBytes - mostTextureBytes;
    const ofStructures = Math.round((ofMeshes * share.acceleration) / Math.max(1, piecesBytes - share.textures));
    return {
      ...bytes,
      acceleration: bytes.acceleration - share.acceleration + ofStructures,
      vertices: bytes.vertices - share.vertices + ofMeshes - ofStructures,
      textures: bytes.textures - share.textures + mostTextureBytes,
    };
  }
  /** What was loaded of stored meshes and textures so far. */
  pieces(): LoadedCounts {
    return this.loaded().parts.counts();
  }
  /**
   * For each of the loaded scene's textures the finest level that something may have looked at so far, 0 that of the
   * whole texture: of those that are always in memory it is not known.
   */
  finestLevels(): number[] {
    const { parts, plan } = this.loaded();
    const met = parts.finestMet();
    return plan.textures.map((t, i) => met.get(i) ?? t.leftOut + t.resident);
  }
  /** For each of the loaded scene's meshes its pieces, and which of them a ray has reached; null: it is not stored. */
  metPieces(): (readonly MetPiece[] | null)[] {
    const { parts, plan } = this.loaded();
    const pieces = parts.metPieces();
    return plan.meshes.map((_, mesh) => pieces.get(mesh) ?? null);
  }
  /**
   * For each of the loaded scene's instances whether a ray may have met it since the film was cleared: none of what no
   * ray has met can show in it, but for the light that it gives.
   */
  reached(): boolean[] {
    const { parts, plan, meshes } = this.loaded();
    const unmet = parts.unmetMeshes();
    const words = new Uint32Array(this.pool.memory.buffer);
    return meshes.map((mesh, i) => !unmet.has(mesh) && (words[maskWord(plan, i)]! & K.INST.REACHED) !== 0);
  }

  /** Names of objects of what is left out, in the order of the numbers in the picture's plane. */
  leftOut(): readonly string[] {
    return this.loaded().parts.leftOut;
  }
  /** What mattered for the picture so far, for each of the loaded scene's instances. */
  evidence(): Evidence[] {
    const { plan, instances, settings } = this.loaded();
    if (!settings.evidence) throw noEvidence();
    return readEvidence(this.pool.memory, plan, instances, this.pool.size);
  }

  /** The same for each of its meshes' pieces; null of those that are not stored. */
  pieceEvidence(): (readonly PieceEvidence[] | null)[] {
    const { plan, settings } = this.loaded();
    if (!settings.evidence) throw noEvidence();
    const counts = plan.meshes.map((m) => m.stored?.places.length ?? 0);
    const pieces = counts.reduce((n, c) => n + c, 0);
    const all = readPieceEvidence(this.pool.memory, plan, pieces, this.pool.size);
    let first = 0;
    return plan.meshes.map((m, i) => (m.stored ? all.slice(first, (first += counts[i]!)) : null));
  }

  /**
   * Adds samples firstSample … firstSample + samples − 1 to the film. Stops within one wave (a few thousand paths) when
   * aborted.
   */
  render(options: RenderOptions, firstSample = 0): Promise<RenderStats> {
    return this.inTurn(() => {
      if (this.stage !== 'open')
        throw new EngineError('BAD_SETTINGS', 'The film was taken: clear it before more is added.');
      return traceSamples(this.pool, this.power, this.loaded(), options, firstSample);
    });
  }
  /**
   * Denoises the film so far, before it is taken: r, g, b a pixel, in nits; of the picture and, one after another, of
   * the light groups, which add up to it, where they are wanted: each costs as much. Needs settings.denoise at load.
   * Bit for bit the same on any number of threads. What it answers with lies in the engine's memory, until it denoises
   * or loads again or is closed.
   */
  denoise(signal?: AbortSignal, withGroups = true): Promise<Denoised> {
    return this.inTurn(() => denoiseFilm(this.pool, this.loaded(), signal, withGroups));
  }
  private loaded(): Loaded {
    if (!this.job) throw new EngineError('BAD_SETTINGS', 'No scene is loaded.');
    return this.job;
  }
}

const noEvidence = () => new EngineError('BAD_SETTINGS', 'Evidence was not asked for when the scene was loaded.');
