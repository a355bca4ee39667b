// Loads a scene into engine memory and renders it. One Engine holds one job at a time; close() gives everything back.
import * as K from '../kernel/layout.ts';
import { planMemory, type MemoryPlan } from './memoryPlan.ts';
import { checkScene, countScene, packCamera, packMesh, packScene, viewsOf, withRectangles } from './pack.ts';
import { KernelPool, type SpawnThread } from './pool.ts';
import { EngineError, type EngineCamera, type EngineMesh, type EngineScene, type RenderSettings } from './scene.ts';

export interface EngineOptions {
  readonly module: WebAssembly.Module;
  readonly spawn: SpawnThread;
  readonly threads: number;
}

export interface Progress {
  /** Samples a pixel that are complete. */
  readonly samplesDone: number;
  /** 0…1 over all samples asked for. */
  readonly fraction: number;
}

export interface RenderOptions {
  readonly camera: EngineCamera;
  readonly samples: number;
  /** Samples a pass: after each the film can be looked at. Grows from 1 to this. */
  readonly samplesPerPass?: number;
  readonly timeLimitS?: number | undefined;
  readonly signal?: AbortSignal | undefined;
  /** Called several times a second. */
  readonly onProgress?: ((p: Progress) => void) | undefined;
  /** Called after each pass; the film may be read with film(). */
  readonly onPass?: ((samplesDone: number) => void | Promise<void>) | undefined;
}

export interface RenderStats {
  readonly samples: number;
  readonly rays: number;
  readonly paths: number;
  readonly seconds: number;
  /** The time limit ended it before all samples were done. */
  readonly limited: boolean;
}

export class Engine {
  private plan: MemoryPlan | undefined;
  private settings: RenderSettings | undefined;
  private constructor(private readonly pool: KernelPool) {}

  static async open({ module, spawn, threads }: EngineOptions): Promise<Engine> {
    return new Engine(await KernelPool.open(spawn, module, threads));
  }

  close(): Promise<void> { return this.pool.close(); }

  private turn: Promise<unknown> = Promise.resolve();
  /** One after another: measuring, loading and rendering use the same memory. */
  private inTurn<T>(work: () => Promise<T>): Promise<T> {
    const mine = this.turn.then(work, work);
    this.turn = mine.catch(() => undefined);
    return mine;
  }

  /** Bytes of a mesh's acceleration structure, by building it. The same mesh always gives the same number. */
  measureMesh(mesh: EngineMesh): Promise<number> { return this.inTurn(() => this.measure(mesh)); }
  private async measure(mesh: EngineMesh): Promise<number> {
    checkScene({ meshes: [mesh], materials: [], textures: [], instances: [], lights: [] });
    const vertices = mesh.positions.length / 3, triangles = mesh.indices.length / 3;
    const positions = K.FIRST_ADDRESS, indices = align(positions + vertices * 12 + 16, 64), records = align(indices + triangles * 12, 64), scratch = align(records + triangles * K.BUILD_RECORD_BYTES, 64), out = align(scratch + K.BUILD_SCRATCH_BYTES, 64);
    // at most one block a triangle, and one node for every two leaves beside the root
    this.pool.reserve(out + triangles * K.BLOCK_BYTES + (triangles + 2) * (K.NODE_BYTES + 64));
    const v = viewsOf(this.pool.memory);
    v.f32.set(mesh.positions, positions >> 2);
    v.u32.set(mesh.indices, indices >> 2);
    await this.pool.call(0, 'buildMesh', positions, indices, triangles, records, scratch, out);
    return (await this.pool.call(0, 'buildEnd')) - out;
  }

  /**
   * Checks, measures, plans, packs and builds. Returns what it takes.
   * @throws EngineError naming the object, or OUT_OF_MEMORY before anything large is allocated
   */
  load(scene: EngineScene, settings: RenderSettings, budgetBytes = Infinity): Promise<MemoryPlan> { return this.inTurn(() => this.loadNow(scene, settings, budgetBytes)); }
  private async loadNow(given: EngineScene, settings: RenderSettings, budgetBytes: number): Promise<MemoryPlan> {
    if (!(settings.widthPx >= 1 && settings.heightPx >= 1)) throw new EngineError('BAD_SETTINGS', 'A picture needs at least one pixel.');
    checkScene(given);
    const scene = withRectangles(given);
    const acceleration: number[] = [];
    for (const m of scene.meshes) acceleration.push(m.accelerationBytes ?? (await this.measure(m)));
    const plan = planMemory(countScene(scene, settings, this.pool.size, acceleration));
    if (plan.totalBytes > budgetBytes) throw new EngineError('OUT_OF_MEMORY', `This job needs ${mib(plan.totalBytes)}, the budget is ${mib(budgetBytes)}. Cull objects for this camera, render smaller, or raise the budget.`);
    this.pool.reserve(plan.totalBytes);
    const v = viewsOf(this.pool.memory), roots: number[] = [];
    for (const [i, m] of scene.meshes.entries()) {
      const place = plan.meshes[i]!;
      packMesh(v, m, place);
      v.f32.set(m.positions, plan.build.positions >> 2);
      roots.push(await this.pool.call(0, 'buildMesh', plan.build.positions, place.indices, m.indices.length / 3, plan.build.records, plan.build.scratch, place.acceleration));
      const built = (await this.pool.call(0, 'buildEnd')) - place.acceleration;
      if (built !== acceleration[i]) throw new EngineError('BAD_MESH', `Mesh “${m.name}” took ${built} bytes instead of the ${acceleration[i]} measured before. Import the scene again.`);
    }
    packScene(v, scene, plan, settings, roots);
    await this.pool.call(0, 'fillAlbedoTable', plan.albedoTable);
    const n = scene.instances.length;
    v.u32[(plan.job + K.JOB_ROOT) >> 2] = n === 0 ? 0 : await this.pool.call(0, 'buildInstances', plan.instances, n, plan.build.records, plan.build.scratch, plan.topLevel);
    this.plan = plan;
    this.settings = settings;
    this.clearFilm();
    return plan;
  }

  clearFilm(): void {
    const { plan, settings } = this.loaded();
    new Float32Array(this.pool.memory.buffer, plan.film, settings.widthPx * settings.heightPx * 4).fill(0);
  }

  /** Sums of r, g, b and coverage over samples; divide by their number. A copy. */
  film(): Float32Array {
    const { plan, settings } = this.loaded();
    return new Float32Array(this.pool.memory.buffer, plan.film, settings.widthPx * settings.heightPx * 4).slice();
  }

  /** Adds samples firstSample … firstSample + samples − 1 to the film. Stops within one wave (a few thousand paths) when aborted. */
  render(options: RenderOptions, firstSample = 0): Promise<RenderStats> { return this.inTurn(() => this.renderNow(options, firstSample)); }
  private async renderNow(options: RenderOptions, firstSample: number): Promise<RenderStats> {
    const { plan, settings } = this.loaded();
    const { samples, signal, onProgress, onPass, timeLimitS = Infinity, samplesPerPass = 8 } = options;
    const v = viewsOf(this.pool.memory), q = plan.job >> 2, job = new Int32Array(this.pool.memory.buffer, plan.job, K.JOB_BYTES / 4);
    packCamera(v, plan, options.camera, settings);
    v.u32.fill(0, q + K.JOB_RAYS / 4, q + K.JOB_RAYS / 4 + 4);
    const tiles = Math.ceil(settings.widthPx / K.TILE_WIDTH) * Math.ceil(settings.heightPx / K.TILE_HEIGHT);
    const began = performance.now(), cancel = () => Atomics.store(job, K.JOB_CANCEL / 4, 1);
    let done = 0, inPass = 0;
    const report = () => onProgress?.({ samplesDone: done, fraction: (done + (inPass * Atomics.load(job, K.JOB_TILES_DONE / 4)) / tiles) / samples });
    const timer = onProgress && setInterval(report, 250);
    signal?.addEventListener('abort', cancel);
    Atomics.store(job, K.JOB_CANCEL / 4, 0);
    try {
      while (done < samples && (performance.now() - began) / 1000 < timeLimitS) {
        inPass = Math.min(samples - done, Math.max(1, Math.min(samplesPerPass, done)));
        job[K.JOB_NEXT_TILE / 4] = 0; job[K.JOB_TILES_DONE / 4] = 0; job[K.JOB_SAMPLE_START / 4] = firstSample + done; job[K.JOB_SAMPLE_COUNT / 4] = inPass;
        if (signal?.aborted) throw new EngineError('CANCELLED', 'The render was cancelled.');
        await this.pool.all('renderTiles', (t) => [plan.job, plan.scratch + t * K.SCRATCH_BYTES]);
        if (signal?.aborted) throw new EngineError('CANCELLED', 'The render was cancelled.');
        done += inPass; inPass = 0;
        report();
        await onPass?.(done);
      }
    } finally {
      clearInterval(timer);
      signal?.removeEventListener('abort', cancel);
    }
    const u64 = new BigUint64Array(this.pool.memory.buffer, plan.job + K.JOB_RAYS, 2);
    return { samples: done, rays: Number(u64[0]), paths: Number(u64[1]), seconds: (performance.now() - began) / 1000, limited: done < samples };
  }

  private loaded() {
    if (!this.plan || !this.settings) throw new EngineError('BAD_SETTINGS', 'No scene is loaded.');
    return { plan: this.plan, settings: this.settings };
  }
}

const align = (n: number, to: number) => Math.ceil(n / to) * to;
const mib = (bytes: number) => `${(bytes / 2 ** 20).toFixed(0)} MiB`;
