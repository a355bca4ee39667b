// Machines render when they may, with as many threads as they may, and lose nothing when that changes.
import type { NodeHours, Project, Queue, RenderNode } from '@variscen/contract';
import { ALWAYS, type HourPower } from '@variscen/core/plan';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { renderTrace } from '../src/node/renderTrace.ts';
import { type Fixture, ENGINE, cellOf, projectWithScene, startFixture, helloOf } from './fixture.ts';

const never = new AbortController().signal;
const ALL_WEEK = (power: HourPower): NodeHours => ({
  ...(ALWAYS as NodeHours),
  stepsBack: false,
  week: ALWAYS.week.map((day) => day.map(() => power)),
});

let f: Fixture;
let p: Project;
beforeAll(async () => {
  f = await startFixture();
  p = await projectWithScene(f, 'Hours');
});
afterAll(() => f?.close());
beforeEach(async () => {
  for (const b of (await f.ok<Queue>('GET', '/api/queue')).batches) await f.ok('POST', `/api/batches/${b.id}/cancel`);
  await f.node.hello(helloOf(2, 100e6));
  await set(ALL_WEEK('full'));
});

const set = (hours: NodeHours) => f.ok('PUT', '/api/node-hours', { name: 'test node', hours });
const node = async () => (await f.ok<RenderNode[]>('GET', '/api/nodes')).find((n) => n.name === 'test node')!;
const submit = () => f.ok('POST', `/api/projects/${p.id}/batches`, { cells: [cellOf(p)], profileId: 'sketch' });
const state = async () => (await f.ok<Queue>('GET', '/api/queue')).traces.find((t) => t.projectId === p.id)!;
async function until(what: () => Promise<boolean>, seconds = 60): Promise<void> {
  for (const end = Date.now() + seconds * 1000; Date.now() < end; await new Promise((r) => setTimeout(r, 50)))
    if (await what()) return;
  throw new Error('It did not come to that.');
}

describe('working hours', () => {
  it('hand nothing out where nothing may render, and say so', async () => {
    await submit();
    await set(ALL_WEEK('none'));
    expect(await f.node.lease(ENGINE)).toBeNull();
    expect(await node()).toMatchObject({ threads: 2, threadsNow: 0, why: 'Not in its working hours' });
    await set({ ...ALL_WEEK('full'), notUntil: new Date(Date.now() + 3_600_000).toISOString() });
    expect(await f.node.lease(ENGINE)).toBeNull();
    expect((await node()).why).toMatch(/^Not until \d\d:\d\d$/);
    await set({ ...ALL_WEEK('full'), notUntil: new Date(Date.now() - 1000).toISOString() });
    expect(await f.node.lease(ENGINE)).not.toBeNull();
  });

  it('that change while a picture is rendered stop it and let it go on, and the trace keeps its attempt', async () => {
    const camera = p.cameras[0]!;
    const settings = { ...camera.settings, widthPx: 2560, heightPx: 1440 };
    await f.ok('PATCH', `/api/projects/${p.id}/cameras/${camera.id}`, { settings });
    await submit();
    const rendering = renderTrace(f.node, (await f.node.lease(ENGINE))!, f.machine, never);
    await until(async () => (await state()).fraction > 0);
    await set(ALL_WEEK('none'));
    let seen = -1;
    // at rest: two looks a second apart show the same
    await until(async () => {
      const before = seen;
      await new Promise((r) => setTimeout(r, 1000));
      seen = (await state()).fraction;
      return seen === before;
    });
    expect(await state()).toMatchObject({ state: 'rendering', attempts: 1 });
    await set(ALL_WEEK('full'));
    await rendering;
    expect(await state()).toMatchObject({ state: 'done', attempts: 1 });
  });

  it('with some threads tell the node how many; while somebody edits, one fewer', async () => {
    const report = { fraction: 0.1, samplesDone: 1, stage: 'tracing', noise: null } as const;
    await submit();
    const l = (await f.node.lease(ENGINE))!;
    await set({ ...ALL_WEEK('some'), someThreads: 1 });
    expect(await f.node.progress(l, report)).toEqual({ goOn: true, threads: 1 });
    await set({ ...ALL_WEEK('full'), stepsBack: true });
    expect(await f.node.progress(l, report)).toEqual({ goOn: true, threads: 2 });
    await f.call('PATCH', `/api/projects/${p.id}`, { name: 'Hours' }, { 'x-variscen-tab': 'a window' });
    expect(await f.node.progress(l, report)).toEqual({ goOn: true, threads: 1 });
    expect(await node()).toMatchObject({ threadsNow: 1, why: 'Somebody edits' });
    await set(ALL_WEEK('full'));
    expect(await f.node.progress(l, report)).toEqual({ goOn: true, threads: 2 });
  });

  it('out of their ranges are refused', async () => {
    const wrong = { ...ALL_WEEK('full'), week: ALL_WEEK('full').week.slice(1) };
    expect((await f.call('PUT', '/api/node-hours', { name: 'test node', hours: wrong })).status).toBe(400);
    expect(
      (await f.call('PUT', '/api/node-hours', { name: 'test node', hours: { ...ALL_WEEK('full'), someThreads: 0 } }))
        .status,
    ).toBe(400);
  });

  it('are kept by a server that does not know the node: it never stops one without a word', async () => {
    const report = { fraction: 0.1, samplesDone: 1, stage: 'tracing', noise: null } as const;
    await submit();
    const l = (await f.node.lease(ENGINE))!;
    // as after a restart of the server
    f.running.context.queue.nodes.forget();
    expect(await f.node.progress(l, report)).toEqual({ goOn: true, threads: null });
    await set({ ...ALL_WEEK('some'), someThreads: 1 });
    expect(await f.node.progress(l, report, 2)).toEqual({ goOn: true, threads: 1 });
    expect(await node()).toMatchObject({ threads: 2, threadsNow: 1, state: 'rendering' });
  });
});
