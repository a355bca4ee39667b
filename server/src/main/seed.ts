// Makes the demo project through the HTTP API, like any user would, and has its pictures rendered behind all else.
import { mkdir, readFile, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout } from 'node:timers/promises';
import type { Plan, Project } from '@variscen/contract';
import {
  DEMO_BASE,
  DEMO_NAME,
  DEMO_OPTIONS,
  DEMO_VARIANTS,
  DEMO_VERSION,
  type Weight,
  makeTeaStall,
} from '@variscen/demo';

type Call = <T>(method: string, path: string, body?: unknown) => Promise<T>;

/** @param userToken where people need one */
function callerOf(base: string, userToken: string | null): Call {
  return async <T>(method: string, path: string, body?: unknown): Promise<T> => {
    const bytes = body instanceof Uint8Array;
    const r = await fetch(base + path, {
      method,
      headers: {
        ...(userToken !== null && { authorization: `Bearer ${userToken}` }),
        ...(body !== undefined && { 'content-type': bytes ? 'application/octet-stream' : 'application/json' }),
      },
      ...(body !== undefined && {
        body: bytes ? (body as Uint8Array<ArrayBuffer>) : JSON.stringify(body),
      }),
    });
    if (!r.ok) throw new Error(((await r.json()) as { message: string }).message);
    return (await r.json()) as T;
  };
}

/**
 * @param userToken where people need one
 * @param home the data folder; what takes long to make is kept there
 * @returns the id of the project
 */
export async function seedDemo(base: string, weight: Weight, userToken: string | null, home: string): Promise<string> {
  const call = callerOf(base, userToken);
  // making the stall holds this process for seconds, in which the server closes connections that rest; they must be
  // seen to be closed before the next request takes one
  const stall = weight === 'heavy' ? await keptStall(weight, home) : await makeTeaStall(weight);
  await setTimeout(100);
  try {
    const project = await call<Project>('POST', '/api/projects', { name: DEMO_NAME });
    const at = `/api/projects/${project.id}`;
    const ids = new Map<string, string>();
    await call('POST', `${at}/scene?fileName=tea-stall.glb`, stall);
    await call('POST', `${at}/recorded`, { destination: 'base', set: DEMO_BASE });
    for (const o of DEMO_OPTIONS) ids.set(o.name, (await call<{ id: string }>('POST', `${at}/options`, o)).id);
    for (const v of DEMO_VARIANTS.slice(1))
      await call('POST', `${at}/variants`, { optionIds: v.options.map((n) => ids.get(n)!) });
    return project.id;
  } catch (e) {
    throw new Error(`The demo could not be made: ${(e as Error).message}`, { cause: e });
  }
}

/**
 * Queues every cell of a project as a Sketch, after everything else that may be queued.
 * @returns how many pictures will come
 */
export async function queueSketches(base: string, userToken: string | null, projectId: string): Promise<number> {
  const call = callerOf(base, userToken);
  const at = `/api/projects/${projectId}`;
  const { cameras, variants } = await call<Project>('GET', at);
  const cells = cameras.flatMap((c) => variants.map((v) => ({ cameraId: c.id, variantId: v.id })));
  const asked = { cells, profileId: 'sketch' };
  const { errors, hash } = await call<Plan>('POST', `${at}/plan`, asked);
  if (errors[0]) throw new Error(errors[0].message);
  const batch = await call<{ id: string }>('POST', `${at}/batches`, { ...asked, planHash: hash });
  await call('PUT', `/api/batches/${batch.id}/priority`, { priority: 'low' });
  return cells.length;
}

/** Made once a data folder; another making has another number. */
async function keptStall(weight: Weight, home: string): Promise<Uint8Array> {
  const file = join(home, 'demo', `${weight}-${DEMO_VERSION}.glb`);
  const known = await readFile(file).catch(() => null);
  if (known) return known;
  const made = await makeTeaStall(weight);
  await mkdir(join(home, 'demo'), { recursive: true });
  const temporary = `${file}-${process.pid}`;
  await writeFile(temporary, made);
  await rename(temporary, file);
  return made;
}
