// The batch: how long plans and the queue let people wait at the size of a real job, and what rendering costs beside
// tracing itself.
import { randomUUID } from 'node:crypto';
import { setTimeout as sleep } from 'node:timers/promises';
import { makeTeaStall } from '@variscen/demo';
import { forget, getFrom, longest, projectWith, sendTo, withApplication } from './application.ts';
import type { Emit } from './figure.ts';

const CAMERAS = 40;
const VARIANTS = 50;
/** Batches of 2,000 cells that wait. */
const BATCHES = 5;
/** As many as the demo has cameras. */
const TRACED_CELLS = 6;
const TRACED = { widthPx: 960, samples: 32, timeLimitS: null, denoise: 0 };

interface Project {
  readonly cameras: readonly {
    readonly id: string;
    readonly name: string;
    readonly settings: { focalLengthMm: number };
  }[];
  readonly variants: readonly { readonly id: string }[];
}
interface Plan {
  readonly traces: readonly unknown[];
  readonly errors: readonly { readonly message: string }[];
}
const put = async (url: string, body: unknown): Promise<void> => {
  const r = await fetch(url, {
    method: 'PUT',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  if (!r.ok) throw new Error(await r.text());
};
const middle = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1]!;
async function timed<T>(work: () => Promise<T>): Promise<{ readonly ms: number; readonly value: T }> {
  const began = performance.now();
  const value = await work();
  return { ms: performance.now() - began, value };
}

export async function batchSuite(emit: Emit): Promise<void> {
  await withApplication(async ({ base, page }) => {
    const id = await projectWith(base, 'Night', await makeTeaStall('light'));
    await put(`${base}/api/queue/held`, { held: true });
    const cells = await manyCells(base, id);
    const post = sendTo(base, id, 'POST');
    // skies of different strength: all of a camera's from one trace, or from one each
    const shared = { cells, profileId: 'sketch' };
    const body = { ...shared, separately: true };
    await post('/plan', body); // all content is hashed once
    for (const asked of [body, shared]) {
      const plan = await timed(() => post<Plan>('/plan', asked));
      if (plan.value.errors.length) throw new Error(plan.value.errors[0]!.message);
      emit({ name: `plan-${cells.length}, ${plan.value.traces.length} traces`, value: plan.ms, unit: 'ms' });
    }
    const queued: number[] = [];
    for (let i = 0; i < BATCHES; i++) queued.push((await timed(() => post('/batches', body))).ms);
    emit({ name: `queue ${cells.length} cells`, value: middle(queued), unit: 'ms' });
    await queue(base, emit);
    await page.goto(`${base}/projects`);
    await page.waitForTimeout(2000);
    await forget(page);
    await page.getByRole('navigation').getByRole('link', { name: 'Queue' }).click();
    await page.getByRole('grid', { name: 'Active traces' }).waitFor();
    await page.waitForTimeout(1500);
    emit({ name: 'queue-2000, page held at most', value: await longest(page), unit: 'ms' });
    await page.close(); // what it draws would be counted as tracing
    await overhead(base, await projectWith(base, 'Traced', await makeTeaStall('light')), emit);
  });
}

/** Cameras and variants for 2,000 cells, each with a state of its own. */
async function manyCells(base: string, id: string): Promise<{ cameraId: string; variantId: string }[]> {
  const post = sendTo(base, id, 'POST');
  const first = (await getFrom<Project>(base, id)).cameras[0]!;
  for (let n = (await getFrom<Project>(base, id)).cameras.length; n < CAMERAS; n++)
    await post('/cameras', { name: `Camera ${n}`, settings: { ...first.settings, focalLengthMm: 30 + n } });
  for (let n = 1; n < VARIANTS; n++) {
    const { id: optionId } = await post<{ id: string }>('/options', {
      facet: 'environment',
      name: `Sky ${n}`,
      changes: [{ target: 'environment', property: 'environment.strength', value: 1 + n / 10 }],
    });
    await post('/variants', { optionIds: [optionId] });
  }
  const { cameras, variants } = await getFrom<Project>(base, id);
  return cameras
    .slice(0, CAMERAS)
    .flatMap((c) => variants.slice(0, VARIANTS).map((v) => ({ cameraId: c.id, variantId: v.id })));
}

async function queue(base: string, emit: Emit): Promise<void> {
  const times: number[] = [];
  let bytes = 0;
  for (let i = 0; i < 9; i++) {
    const { ms, value } = await timed(async () => (await fetch(`${base}/api/queue`)).text());
    times.push(ms);
    bytes = value.length;
  }
  const { counts } = JSON.parse(await (await fetch(`${base}/api/queue`)).text()) as { counts: { waiting: number } };
  emit({ name: `queue-2000, first page of ${counts.waiting}`, value: middle(times), unit: 'ms' });
  emit({ name: 'queue-2000, first page', value: bytes / 1000, unit: 'kB' });
  const open = (await (await fetch(`${base}/api/queue/open?limit=500`)).json()) as { id: string }[];
  const move = { traceIds: [open[400]!.id], before: open[0]!.id };
  const moved = await timed(() =>
    fetch(`${base}/api/queue/move`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(move),
    }),
  );
  emit({ name: `move one of ${counts.waiting}`, value: moved.ms, unit: 'ms' });
}

interface Trace {
  readonly batchId: string;
  readonly state: string;
  readonly seconds: number | null;
  readonly startedAt: string;
  readonly finishedAt: string;
}
async function queueOf(base: string): Promise<{ traces: readonly Trace[]; batches: readonly { id: string }[] }> {
  return (await (await fetch(`${base}/api/queue`)).json()) as Awaited<ReturnType<typeof queueOf>>;
}

/**
 * From the first trace handed out to the last one done, against what the traces say that tracing took: the queue,
 * slices, checkpoints and files. Denoising is none of them.
 */
async function overhead(base: string, id: string, emit: Emit): Promise<void> {
  const profileId = randomUUID();
  const [sketch] = ((await (await fetch(`${base}/api/profiles`)).json()) as { own: Record<string, unknown>[] }).own;
  const { id: _, ...settings } = sketch!;
  const profile = { ...settings, ...TRACED, name: 'Measured' };
  await put(`${base}/api/projects/${id}/profiles/${profileId}`, profile);
  const { cameras, variants } = await getFrom<Project>(base, id);
  const cells = cameras.slice(0, TRACED_CELLS).map((c) => ({ cameraId: c.id, variantId: variants[0]!.id }));
  for (const { id: batchId } of (await queueOf(base)).batches)
    await fetch(`${base}/api/batches/${batchId}/cancel`, { method: 'POST' });
  const batch = await sendTo(base, id, 'POST')<{ id: string }>('/batches', { cells, profileId });
  await put(`${base}/api/queue/held`, { held: false });
  for (;;) {
    const traces = (await queueOf(base)).traces.filter((t) => t.batchId === batch.id);
    if (traces.every((t) => t.state === 'done')) {
      const wallS =
        (Math.max(...traces.map((t) => Date.parse(t.finishedAt))) -
          Math.min(...traces.map((t) => Date.parse(t.startedAt)))) /
        1000;
      const tracedS = traces.reduce((n, t) => n + (t.seconds ?? 0), 0);
      emit({
        name: `overhead, ${traces.length} cells`,
        value: wallS,
        unit: 's',
        ratio: wallS / tracedS,
        of: 'tracing alone',
      });
      return;
    }
    await sleep(500);
  }
}
