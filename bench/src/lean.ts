// What culling saves and costs where a scene weighs: the heavy demo, whole through the application. Same picture and
// Lean at half a per cent in turn, after each was rendered once, so that what is made once a machine is there.
import { randomUUID } from 'node:crypto';
import { setTimeout as sleep } from 'node:timers/promises';
import type { Board, CullEvidenceAnswer, Plan, Project, Render } from '@variscen/contract';
import { type Proof, type ProofSide, unpackProof } from '@variscen/core/cull';
import { makeTeaStall } from '@variscen/demo';
import { projectWith, withApplication } from './application.ts';
import type { Emit } from './figure.ts';

const CAMERA = 'Counter, close';
const BAR = 0.005;
/** Enough for the tracing to be most of it. */
const SAMPLES = Number(process.env['BENCH_SAMPLES'] ?? 96);
const TURNS = Number(process.env['BENCH_TURNS'] ?? 2);
const MIB = 2 ** 20;
/** Of the Final that comes with the application, were all its samples taken. */
const FINAL = { pixels: 1600 * 900, samples: 512 };

interface Taken {
  readonly render: Render;
  readonly wholeS: number;
}

export async function leanSuite(emit: Emit): Promise<void> {
  await withApplication(async ({ base }) => {
    const id = await projectWith(base, 'Town', await makeTeaStall('heavy'));
    const call = async <T>(path: string, method = 'GET', body?: unknown): Promise<T> => {
      const headers = { 'content-type': 'application/json' };
      const r = await fetch(`${base}/api${path}`, {
        method,
        headers,
        ...(body !== undefined && { body: JSON.stringify(body) }),
      });
      if (!r.ok) throw new Error(`${path}: ${await r.text()}`);
      return (await r.json()) as T;
    };
    const at = `/projects/${id}`;
    const project = await call<Project>(at);
    const camera = project.cameras.find((c) => c.name === CAMERA)!;
    const cell = { cameraId: camera.id, variantId: project.variants[0]!.id };
    const sketch = (await call<{ own: Record<string, unknown>[] }>('/profiles')).own[0]!;
    const profileId = randomUUID();
    const { id: _, ...rest } = sketch;
    await call(`${at}/profiles/${profileId}`, 'PUT', { ...rest, name: 'Bench', samples: SAMPLES, timeLimitS: null });

    // 1. What the camera needs
    const evidence = await call<CullEvidenceAnswer>(`${at}/cull/evidence`, 'POST', cell);
    emit({ name: 'probe-time', value: evidence.seconds, unit: 's' });

    const take = async (barShare: number | null): Promise<Taken> => {
      await call(`${at}/cull`, 'PUT', { cameraIds: [camera.id], barShare, keep: [], leaveOut: [] });
      const began = performance.now();
      await call(`${at}/batches`, 'POST', { cells: [cell], profileId });
      while ((await call<unknown[]>('/queue/open')).length) await sleep(100);
      const wholeS = (performance.now() - began) / 1000;
      const { cells } = await call<Board>(`${at}/board`);
      const render = cells.find((c) => c.cameraId === cell.cameraId && c.variantId === cell.variantId)!.render!;
      return { render, wholeS };
    };

    // 2. Both in turn
    await take(null);
    await take(BAR);
    let same: Taken | undefined;
    let lean: Taken | undefined;
    for (let turn = 0; turn < TURNS; turn++) {
      same = quicker(same, await take(null));
      lean = quicker(lean, await take(BAR));
    }
    const whole = (await call<Plan>(`${at}/plan`, 'POST', { cells: [cell], profileId })).traces[0]!;
    tell(emit, evidence, whole, same!, lean!);

    // 3. Against all of it loaded, at the same seeds; each twice, so that what is made once a machine is there
    const prove = async (): Promise<Proof> => {
      const proof = await fetch(`${base}/api${at}/cull/proof`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify(cell),
      });
      return unpackProof(await proof.arrayBuffer());
    };
    tellProof(emit, 'lean', await prove());
    const simplified = { cameraIds: [camera.id], barShare: null, keep: [], leaveOut: [], simplifies: true };
    await call(`${at}/cull`, 'PUT', simplified);
    await prove();
    tellProof(emit, 'stand-ins', await prove());
  });
}
const quicker = (a: Taken | undefined, b: Taken): Taken => (a && a.wholeS <= b.wholeS ? a : b);

function tellProof(
  emit: Emit,
  name: string,
  { whole, culled, netShare, noiseShare, atMostShare, pixelShare, finalNoiseShare }: Proof,
): void {
  const secondsOf = (s: ProofSide) => s.loadS + s.traceS;
  const of = 'all of it loaded';
  const ratio = secondsOf(culled) / secondsOf(whole);
  emit({ name: `${name}-proof-time`, value: secondsOf(culled), unit: 's', ratio, of });
  const peak = culled.peakBytes;
  emit({ name: `${name}-proof-peak`, value: peak / MIB, unit: 'MiB', ratio: peak / whole.peakBytes, of });
  emit({ name: `${name}-proof-lost`, value: Math.abs(netShare) * 100, unit: '% of the light' });
  emit({ name: `${name}-proof-noise`, value: noiseShare * 100, unit: '% of the light, one standard deviation' });
  emit({
    name: `${name}-proof-difference`,
    value: pixelShare * 100,
    unit: '% of the mean a pixel, noise taken out',
    ratio: pixelShare / finalNoiseShare,
    of: 'the noise of a Final',
  });
  if (atMostShare !== null)
    emit({ name: `${name}-proof-lost-at-most`, value: atMostShare * 100, unit: '% of the light' });
}

function tell(emit: Emit, evidence: CullEvidenceAnswer, plan: Plan['traces'][number], same: Taken, lean: Taken): void {
  const engineOf = ({ render }: Taken) => Object.values(render.plannedBytes).reduce((a, b) => a + b, 0);
  const wholeBytes = plan.totalBytesWithoutCulling;
  const paths = same.render.widthPx * same.render.heightPx * SAMPLES;
  const finalS = (same.render.seconds / paths) * FINAL.pixels * FINAL.samples;
  emit({ name: 'probe-share', value: evidence.seconds, unit: 's', ratio: evidence.seconds / finalS, of: 'a Final' });
  for (const [name, taken] of [
    ['same-picture', same],
    ['lean', lean],
  ] as const) {
    const engineBytes = engineOf(taken);
    const ratio = engineBytes / wholeBytes;
    emit({ name: `${name}-memory`, value: engineBytes / MIB, unit: 'MiB', ratio, of: 'the whole scene in the engine' });
    emit({ name: `${name}-peak`, value: taken.render.peakBytes / MIB, unit: 'MiB of the process' });
  }
  const { wholeS } = lean;
  emit({ name: 'lean-time', value: wholeS, unit: 's', ratio: wholeS / same.wholeS, of: 'Same picture, with loading' });
  const { render } = lean;
  emit({ name: 'lean-left-out', value: render.droppedObjects, unit: 'objects' });
  emit({ name: 'lean-costs-at-most', value: (render.leftOut?.atMostShare ?? 0) * 100, unit: '% of the light' });
}
