// Makes the demo project through the HTTP API, like any user would.
import { mkdir, readFile, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout } from 'node:timers/promises';
import type { Project } from '@variscen/contract';
import {
  DEMO_BASE,
  DEMO_NAME,
  DEMO_OPTIONS,
  DEMO_VARIANTS,
  DEMO_VERSION,
  type Weight,
  makeTeaStall,
} from '@variscen/demo';

/**
 * @param userToken where people need one
 * @param home the data folder; what takes long to make is kept there
 */
export async function seedDemo(base: string, weight: Weight, userToken: string | null, home: string): Promise<string> {
  const call = async <T>(method: string, path: string, body?: unknown): Promise<T> => {
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
    if (!r.ok) throw new Error(`The demo could not be made: ${((await r.json()) as { message: string }).message}`);
    return (await r.json()) as T;
  };
  // making the stall holds this process for seconds, in which the server closes connections that rest; they must be
  // seen to be closed before the next request takes one
  const stall = weight === 'heavy' ? await keptStall(weight, home) : await makeTeaStall(weight);
  await setTimeout(100);
  const project = await call<Project>('POST', '/api/projects', { name: DEMO_NAME });
  const at = `/api/projects/${project.id}`;
  const ids = new Map<string, string>();
  await call('POST', `${at}/scene?fileName=tea-stall.glb`, stall);
  await call('POST', `${at}/recorded`, { destination: 'base', set: DEMO_BASE });
  for (const o of DEMO_OPTIONS) ids.set(o.name, (await call<{ id: string }>('POST', `${at}/options`, o)).id);
  for (const v of DEMO_VARIANTS.slice(1))
    await call('POST', `${at}/variants`, { optionIds: v.options.map((n) => ids.get(n)!) });
  return project.id;
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
