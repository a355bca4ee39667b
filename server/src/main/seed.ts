// Makes the demo project through the HTTP API, like any user would.
import { setTimeout } from 'node:timers/promises';
import type { Project } from '@variscen/contract';
import { DEMO_BASE, DEMO_NAME, DEMO_OPTIONS, DEMO_VARIANTS, type Weight, makeTeaStall } from '@variscen/demo';

/** @param userToken where people need one */
export async function seedDemo(base: string, weight: Weight, userToken: string | null): Promise<string> {
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
  const stall = await makeTeaStall(weight);
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
