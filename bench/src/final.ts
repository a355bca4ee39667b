// A Final of 3840 × 2160 with every AOV, whole through the application; and how well times are expected.
import { randomUUID } from 'node:crypto';
import { setTimeout as sleep } from 'node:timers/promises';
import { AOVS } from '@variscen/core/plan';
import { makeTeaStall } from '@variscen/demo';
import { getFrom, projectWith, sendTo, withApplication } from './application.ts';
import type { Emit } from './figure.ts';

/** What a Final has most of is samples, which only make the tracing longer: these are few. */
const SAMPLES_4K = 4;
const ESTIMATED_CAMERAS = 5;
const WITHIN = 0.25;

interface Trace {
  readonly id: string;
  readonly batchId: string;
  readonly state: string;
  readonly error: string | null;
  readonly attempts: number;
  readonly seconds: number | null;
  readonly expectedS: number | null;
  readonly peakBytes: number | null;
  readonly startedAt: string;
  readonly finishedAt: string;
}
interface Project {
  readonly cameras: readonly { readonly id: string }[];
  readonly variants: readonly { readonly id: string }[];
}
const json = async <T>(url: string, method = 'GET', body?: unknown): Promise<T> => {
  const headers = { 'content-type': 'application/json' };
  const r = await fetch(url, { method, headers, ...(body !== undefined && { body: JSON.stringify(body) }) });
  if (!r.ok) throw new Error(await r.text());
  return (await r.json()) as T;
};

export async function finalSuite(emit: Emit): Promise<void> {
  await withApplication(async ({ base }) => {
    const id = await projectWith(base, 'Final', await makeTeaStall('light'));
    await estimates(base, id, emit);
    await large(base, id, emit);
  });
}

/** @param like number of a profile that comes with the application */
async function profileLike(base: string, id: string, like: number, settings: object): Promise<string> {
  const profileId = randomUUID();
  const { own } = await json<{ own: Record<string, unknown>[] }>(`${base}/api/profiles`);
  const { id: _, ...rest } = own[like]!;
  await json(`${base}/api/projects/${id}/profiles/${profileId}`, 'PUT', { ...rest, name: profileId, ...settings });
  return profileId;
}

/** Each camera in a look in which it was never rendered, after one in which it was. */
async function estimates(base: string, id: string, emit: Emit): Promise<void> {
  const profileId = await profileLike(base, id, 0, { widthPx: 320, timeLimitS: null });
  const post = sendTo(base, id, 'POST');
  const option = await post<{ id: string }>('/options', {
    facet: 'environment',
    name: 'Dusk',
    changes: [{ target: 'environment', property: 'environment.kind', value: 'dusk' }],
  });
  await post('/variants', { optionIds: [option.id] });
  const { cameras, variants } = await getFrom<Project>(base, id);
  const cellsOf = (variant: number) =>
    cameras.slice(0, ESTIMATED_CAMERAS).map((c) => ({ cameraId: c.id, variantId: variants[variant]!.id }));
  await rendered(base, id, cellsOf(0), profileId);
  const traces = await rendered(base, id, cellsOf(1), profileId);
  const offBy = traces.map((t) => Math.abs(t.expectedS! - t.seconds!) / t.seconds!);
  emit({
    name: `estimate, of ${traces.length} cells within ${WITHIN * 100} %`,
    value: offBy.filter((x) => x <= WITHIN).length,
    unit: 'cells',
  });
  emit({ name: 'estimate, off by at most', value: Math.max(...offBy) * 100, unit: '%' });
}

async function large(base: string, id: string, emit: Emit): Promise<void> {
  const settings = { widthPx: 3840, samples: SAMPLES_4K, noise: null, aovs: AOVS };
  const profileId = await profileLike(base, id, 2, settings);
  const { cameras, variants } = await getFrom<Project>(base, id);
  const [trace] = await rendered(base, id, [{ cameraId: cameras[0]!.id, variantId: variants[0]!.id }], profileId);
  const wallS = (Date.parse(trace!.finishedAt) - Date.parse(trace!.startedAt)) / 1000;
  emit({ name: 'lease-4k, attempts', value: trace!.attempts, unit: 'attempts' });
  emit({
    name: 'lease-4k, from lease to delivered',
    value: wallS,
    unit: 's',
    ratio: wallS / trace!.seconds!,
    of: 'tracing',
  });
  emit({ name: 'lease-4k, peak memory', value: trace!.peakBytes! / 1e6, unit: 'MB' });
}

/** @throws where one of them is not done */
async function rendered(base: string, id: string, cells: readonly object[], profileId: string): Promise<Trace[]> {
  const batch = await sendTo(base, id, 'POST')<{ id: string }>('/batches', { cells, profileId });
  for (;;) {
    await sleep(500);
    const { traces } = await json<{ traces: Trace[] }>(`${base}/api/queue`);
    const own = traces.filter((t) => t.batchId === batch.id);
    const ended = own.find((t) => t.state === 'failed' || t.state === 'undelivered');
    if (ended) throw new Error(ended.error ?? ended.state);
    if (own.length > 0 && own.every((t) => t.state === 'done')) return own;
  }
}
