// Denoises the film of a loaded scene, by bands on all threads.
import * as K from '../kernel/layout/index.ts';
import { cropped, filmGridOf } from './filmGrid.ts';
import type { Loaded } from './loaded.ts';
import type { KernelPool } from './pool.ts';
import { EngineError } from './scene.ts';
import { layersBeside } from './renderSettings.ts';

export interface Denoised {
  readonly rgb: Float32Array;
  readonly groups?: Float32Array;
  /** As the plane caught. */
  readonly caught?: Float32Array;
}

/** @see Engine.denoise */
export async function denoiseFilm(
  pool: KernelPool,
  loaded: Loaded,
  signal: AbortSignal | undefined,
  withGroups: boolean,
): Promise<Denoised> {
  const { plan, settings } = loaded;
  const grid = filmGridOf(settings);
  const job = new Int32Array(pool.memory.buffer, plan.job, K.JOB.BYTES / 4);
  const cancel = () => Atomics.store(job, K.JOB.CANCEL / 4, 1);
  if (!settings.denoise)
    throw new EngineError('BAD_SETTINGS', 'Denoising was not asked for when the scene was loaded.');
  const groups = withGroups ? (settings.lightGroups ?? 0) : 0;
  job[K.JOB.NEXT_TILE / 4] = 0;
  job[K.JOB.TILES_DONE / 4] = 0;
  job[K.JOB.GROUPS / 4] = groups;
  Atomics.store(job, K.JOB.CANCEL / 4, signal?.aborted ? 1 : 0);
  signal?.addEventListener('abort', cancel);
  try {
    await pool.all('denoiseBands', (t) => [plan.job, plan.denoiseScratch + t * plan.denoiseStride, plan.denoised]);
  } finally {
    signal?.removeEventListener('abort', cancel);
    job[K.JOB.GROUPS / 4] = settings.lightGroups ?? 0;
  }
  if (signal?.aborted) throw new EngineError('CANCELLED', 'The render was cancelled.');
  const floats = grid.widthPx * grid.heightPx * 3;
  const read = (from: number, layers: number) => {
    const film = new Float32Array(pool.memory.buffer, plan.denoised + from * 4, floats * layers);
    return cropped(film, 3, layers, settings);
  };
  const caught = layersBeside(settings) - (settings.lightGroups ?? 0);
  return {
    rgb: read(0, 1),
    ...(groups > 0 && { groups: read(floats, groups) }),
    ...(caught > 0 && { caught: read(floats * (1 + groups), caught) }),
  };
}
