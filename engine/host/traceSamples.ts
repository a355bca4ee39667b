// Adds samples to the film of a loaded scene, pass by pass.
import * as K from '../kernel/layout/index.ts';
import { bandOf } from './filmBands.ts';
import { type TileRows, filmGridOf, pixelRowsOf } from './filmGrid.ts';
import type { Loaded } from './loaded.ts';
import { nearCamera } from './nearScene.ts';
import { packCamera } from './pack.ts';
import type { KernelPool } from './pool.ts';
import { type Power, renderPass } from './power.ts';
import { type EngineCamera, EngineError } from './scene.ts';
import { viewsOf } from './views.ts';

export interface Progress {
  /** Samples a pixel that are complete. */
  readonly samplesDone: number;
  /** 0…1 over all samples asked for. */
  readonly fraction: number;
}

export interface RenderOptions {
  readonly camera: EngineCamera;
  /** At the next frame, where it moves; for motion. */
  readonly nextCamera?: EngineCamera | undefined;
  readonly samples: number;
  /** Samples a pass: after each the film can be looked at. Grows to this, as many as there are already at a time. */
  readonly samplesPerPass?: number;
  /** Only these rows of the film's tiles; all where absent. */
  readonly rows?: TileRows | undefined;
  readonly timeLimitS?: number | undefined;
  readonly signal?: AbortSignal | undefined;
  /** Called several times a second. */
  readonly onProgress?: ((p: Progress) => void) | undefined;
  /** Called after each pass; the film may be read with picture(). */
  readonly onPass?: ((samplesDone: number) => void | Promise<void>) | undefined;
}

export interface RenderStats {
  /** Samples a pixel of tiles that took all. */
  readonly samples: number;
  /** Mean over the picture: less where tiles were quiet enough before. */
  readonly meanSamples: number;
  readonly rays: number;
  readonly paths: number;
  /** Without those in which no thread might work. */
  readonly seconds: number;
  /** The time limit ended it before all samples were done. */
  readonly limited: boolean;
}

/** Tiles that are traced, as a span of their numbers. */
interface Tiles {
  readonly first: number;
  readonly end: number;
  /** How many lines of pixels they have. */
  readonly lines: number;
}
interface Done {
  readonly samples: number;
  readonly limited: boolean;
  readonly idleS: number;
}

/** @see Engine.render */
export async function traceSamples(
  pool: KernelPool,
  power: Power,
  loaded: Loaded,
  options: RenderOptions,
  firstSample: number,
): Promise<RenderStats> {
  const { plan, settings, parts } = loaded;
  const { signal } = options;
  const job = new Int32Array(pool.memory.buffer, plan.job, K.JOB.BYTES / 4);
  const tiles = tilesIn(loaded, options.rows);
  packView(pool, loaded, options);
  job.fill(0, K.JOB.RAYS / 4, K.JOB.RAYS / 4 + 4);
  parts.begin();
  const began = performance.now();
  const cancel = () => {
    Atomics.store(job, K.JOB.CANCEL / 4, 1);
    parts.letAllGoOn();
    parts.release();
    power.nudge(); // where no thread works, nobody else would see it
  };
  signal?.addEventListener('abort', cancel);
  Atomics.store(job, K.JOB.CANCEL / 4, 0);
  let done: Done;
  try {
    done = await passes(pool, power, loaded, { job, tiles, options, firstSample });
  } finally {
    signal?.removeEventListener('abort', cancel);
    await parts.atRest();
  }
  const [rays, paths] = new BigUint64Array(pool.memory.buffer, plan.job + K.JOB.RAYS, 2);
  return {
    samples: done.samples,
    meanSamples: Number(paths) / (filmGridOf(settings).widthPx * tiles.lines),
    rays: Number(rays),
    paths: Number(paths),
    seconds: (performance.now() - began) / 1000 - done.idleS,
    limited: done.limited,
  };
}

interface Pass {
  readonly job: Int32Array;
  readonly tiles: Tiles;
  readonly options: RenderOptions;
  readonly firstSample: number;
}
/** Until all samples are there, the time is over, or every tile is quiet enough. */
async function passes(pool: KernelPool, power: Power, loaded: Loaded, pass: Pass): Promise<Done> {
  const { plan, parts, settings } = loaded;
  const { job, tiles, options, firstSample } = pass;
  const { samples, signal, onProgress, onPass, timeLimitS = Infinity, samplesPerPass = 8 } = options;
  const began = performance.now();
  const isLate = () => (performance.now() - began) / 1000 >= timeLimitS;
  let idleS = 0;
  let done = 0;
  let inPass = 0;
  const report = () => {
    const shareOfPass = Atomics.load(job, K.JOB.TILES_DONE / 4) / (tiles.end - tiles.first);
    onProgress?.({ samplesDone: done, fraction: (done + inPass * shareOfPass) / samples });
  };
  const timer = onProgress && setInterval(report, 250);
  const checkWanted = () => {
    if (signal?.aborted) throw new EngineError('CANCELLED', 'The render was cancelled.');
  };
  try {
    while (done < samples && !isLate()) {
      inPass = Math.min(samples - done, Math.max(1, Math.min(samplesPerPass, firstSample + done)));
      job[K.JOB.NEXT_TILE / 4] = tiles.first;
      job[K.JOB.END_TILE / 4] = tiles.end;
      job[K.JOB.TILES_DONE / 4] = 0;
      job[K.JOB.SAMPLE_START / 4] = firstSample + done;
      job[K.JOB.SAMPLE_COUNT / 4] = inPass;
      checkWanted();
      idleS += await renderPass(pool, power, job, (t) => [plan.job, plan.scratch + t * plan.scratchStride]);
      if (parts.fault) throw parts.fault;
      checkWanted();
      done += inPass;
      inPass = 0;
      report();
      await onPass?.(done);
      if (settings.noise && areFinished(pool, loaded, tiles)) break;
    }
    if (done < samples && onProgress) onProgress({ samplesDone: done, fraction: 1 });
  } finally {
    clearInterval(timer);
  }
  return { samples: done, limited: done < samples && isLate(), idleS };
}

function tilesIn({ plan, settings }: Loaded, rows: TileRows | undefined): Tiles {
  const grid = filmGridOf(settings);
  const wanted = rows ?? { from: 0, to: grid.tilesDown };
  bandOf(plan, settings, wanted); // checks them
  const lines = pixelRowsOf(grid, wanted);
  return {
    first: wanted.from * grid.tilesAcross,
    end: wanted.to * grid.tilesAcross,
    lines: lines.to - lines.from,
  };
}
function packView(pool: KernelPool, { plan, settings, origin }: Loaded, options: RenderOptions): void {
  const camera = nearCamera(options.camera, origin);
  const next = options.nextCamera ? nearCamera(options.nextCamera, origin) : camera;
  packCamera(viewsOf(pool.memory), plan, camera, next, settings);
}
function areFinished(pool: KernelPool, { plan }: Loaded, { first, end }: Tiles): boolean {
  const state = plan.tileState >>> 2;
  return viewsOf(pool.memory)
    .i32.subarray(state + first, state + end)
    .every(isFinished);
}
const isFinished = (tile: number): boolean => (tile & K.TILE.FINISHED) !== 0;
