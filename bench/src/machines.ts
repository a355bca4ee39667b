// One large trace on one node of one thread, and on two of them; and what two threads are worth on this machine where
// nothing has to be shared: no division of the work can give more.
import { type ChildProcess, spawn } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';
import { makeTeaStall } from '@variscen/demo';
import { type Engine, engineCamera } from '@variscen/engine';
import { openNodeEngine } from '@variscen/engine/node';
import { getFrom, projectWith, sendTo } from './application.ts';
import { openDemo } from './demoScene.ts';
import type { Emit } from './figure.ts';
import { leastInTurn } from './shots.ts';
import { ready, stop } from './start.ts';

const ONE_THREAD = { VARISCEN_THREADS: '1' };
/**
 * About four minutes of one thread. Denoising and what follows is one node's work, as it is where the trace is not
 * shared.
 */
const LARGE = { widthPx: 1920, samples: 24, timeLimitS: null, denoise: 0 };
const REFERENCE = { widthPx: 640, heightPx: 360, samples: 4, turns: 6 };
const root = fileURLToPath(new URL('../../', import.meta.url));

interface Trace {
  readonly batchId: string;
  readonly state: string;
  readonly error: string | null;
  readonly startedAt: string;
  readonly finishedAt: string;
}
const json = async <T>(url: string, method = 'GET', body?: unknown): Promise<T> => {
  const headers = { 'content-type': 'application/json' };
  const r = await fetch(url, { method, headers, ...(body !== undefined && { body: JSON.stringify(body) }) });
  if (!r.ok) throw new Error(await r.text());
  return (await r.json()) as T;
};

export async function machinesSuite(emit: Emit): Promise<void> {
  const home = await mkdtemp(join(tmpdir(), 'variscen-bench-'));
  const children: ChildProcess[] = [];
  try {
    const { child, base } = await ready(home, { env: ONE_THREAD }, '--no-demo');
    children.push(child);
    const id = await projectWith(base, 'Two nodes', await makeTeaStall('light'));
    const profileId = await largeProfile(base, id);
    const one = await traced(base, id, profileId);
    emit({ name: 'two-nodes, one node', value: one, unit: 's' });
    children.push(await second(base, home));
    const two = await traced(base, id, profileId);
    emit({ name: 'two-nodes, two nodes', value: two, unit: 's', ratio: one / two, of: 'the speed of one' });
    const possible = await twoApart();
    emit({ name: 'two threads apart', value: possible, unit: 'times as fast', ratio: possible, of: 'one thread' });
  } finally {
    for (const child of children.reverse()) await stop(child);
    await rm(home, { recursive: true, force: true });
  }
}

/** Two engines of a thread each, at once, to one of them: each with a scene and a film of its own. */
async function twoApart(): Promise<number> {
  const demo = await openDemo('light');
  const camera = demo.cameras[0]!;
  const { scene, selection } = await demo.scene([], camera);
  const { widthPx, heightPx, samples, turns } = REFERENCE;
  const settings = { widthPx, heightPx, maxBounces: 6, clampIndirect: 0, seed: 1 };
  const engines = await Promise.all([openNodeEngine(1), openNodeEngine(1)]);
  const view = engineCamera(selection.pose.now.camera);
  const run = async (some: readonly Engine[]) => {
    for (const engine of some) engine.clearFilm();
    const began = performance.now();
    await Promise.all(some.map((engine) => engine.render({ camera: view, samples })));
    return performance.now() - began;
  };
  try {
    for (const engine of engines) await engine.load(scene, settings);
    const [alone, both] = await leastInTurn(
      turns,
      () => run([engines[0]]),
      () => run(engines),
    );
    return (2 * alone) / both;
  } finally {
    for (const engine of engines) await engine.close();
  }
}

async function largeProfile(base: string, id: string): Promise<string> {
  const profileId = randomUUID();
  const { own } = await json<{ own: Record<string, unknown>[] }>(`${base}/api/profiles`);
  const { id: _, ...settings } = own[0]!;
  const profile = { ...settings, name: 'Large', ...LARGE };
  await json(`${base}/api/projects/${id}/profiles/${profileId}`, 'PUT', profile);
  return profileId;
}

/** Seconds from when it was handed out until its files were stored. */
async function traced(base: string, id: string, profileId: string): Promise<number> {
  const { cameras, variants } = await getFrom<Record<'cameras' | 'variants', { id: string }[]>>(base, id);
  const cells = [{ cameraId: cameras[0]!.id, variantId: variants[0]!.id }];
  const batch = await sendTo(base, id, 'POST')<{ id: string }>('/batches', { cells, profileId });
  for (;;) {
    const { traces } = await json<{ traces: Trace[] }>(`${base}/api/queue`);
    const trace = traces.find((t) => t.batchId === batch.id);
    if (trace?.state === 'failed') throw new Error(trace.error ?? 'It failed.');
    if (trace?.state === 'done') return (Date.parse(trace.finishedAt) - Date.parse(trace.startedAt)) / 1000;
    await sleep(500);
  }
}

/** A second node joins, and is waited for. */
async function second(base: string, home: string): Promise<ChildProcess> {
  const { token } = await json<{ token: string }>(`${base}/api/nodes`, 'POST', { name: 'second' });
  const file = join(home, 'second-token');
  await writeFile(file, token);
  const joining = ['--join', base, '--token-file', file, '--folder', join(home, 'second')];
  const child = spawn(join(root, 'node'), joining, { env: { ...process.env, ...ONE_THREAD }, stdio: 'inherit' });
  for (;;) {
    const nodes = await json<{ name: string; state: string }[]>(`${base}/api/nodes`);
    if (nodes.some((n) => n.name === 'second' && n.state === 'idle')) return child;
    await sleep(200);
  }
}
