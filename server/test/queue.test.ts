// What people do with the queue, and that entries and rows agree whatever happens between them.
import type { EndedTraces, Project, Queue, QueueTrace } from '@variscen/contract';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { renderTrace } from '../src/node/renderTrace.ts';
import { type Fixture, ENGINE, cellOf, projectWithScene, startFixture, helloOf } from './fixture.ts';

const never = new AbortController().signal;
const LIGHTS = [20, 40, 60, 80];

let f: Fixture;
let p: Project;
beforeAll(async () => {
  f = await startFixture();
  const { id } = await projectWithScene(f, 'Order');
  for (const value of LIGHTS) {
    const option = await f.ok('POST', `/api/projects/${id}/options`, {
      facet: 'lighting',
      name: `Light ${value}`,
      changes: [{ target: 'light:Lamp', property: 'light.intensity', value }],
    });
    await f.ok('POST', `/api/projects/${id}/variants`, { optionIds: [option.id] });
  }
  p = await f.ok('GET', `/api/projects/${id}`);
});
afterAll(() => f?.close());
beforeEach(async () => {
  await f.ok('PUT', '/api/queue/held', { held: false });
  for (const b of (await queue()).batches) await f.ok('POST', `/api/batches/${b.id}/cancel`);
  await f.node.hello(helloOf(2, 100e6));
});

const queue = () => f.ok<Queue>('GET', '/api/queue');
const open = () => f.ok<QueueTrace[]>('GET', '/api/queue/open');
/** Names of the variants that are to come, in their order. */
const order = async () => (await open()).map((t) => t.cells[0]!.variantName);
const submit = (...variants: number[]) =>
  f.ok<{ id: string }>('POST', `/api/projects/${p.id}/batches`, {
    cells: variants.map((v) => cellOf(p, v)),
    profileId: 'sketch',
    separately: true,
  });
const lease = async () => {
  const l = await f.node.lease(ENGINE);
  return l && (await open()).find((t) => t.id === l.traceId)!.cells[0]!.variantName;
};
const idOf = async (name: string) => (await open()).find((t) => t.cells[0]!.variantName === name)!.id;
const move = async (names: string[], before: string | null) =>
  f.ok('POST', '/api/queue/move', {
    traceIds: await Promise.all(names.map(idOf)),
    before: before === null ? null : await idOf(before),
  });

describe('the order', () => {
  it('is that of the batches, and traces are handed out in it', async () => {
    await submit(1, 2);
    await submit(3, 4);
    expect(await order()).toEqual(['Light 20', 'Light 40', 'Light 60', 'Light 80']);
    expect([await lease(), await lease()]).toEqual(['Light 20', 'Light 40']);
  });
  it('is changed by moving one or several, to the front, between and to the end', async () => {
    await submit(1, 2, 3, 4);
    await move(['Light 80'], 'Light 20');
    expect(await order()).toEqual(['Light 80', 'Light 20', 'Light 40', 'Light 60']);
    await move(['Light 60', 'Light 80'], 'Light 40');
    expect(await order()).toEqual(['Light 20', 'Light 80', 'Light 60', 'Light 40']);
    await move(['Light 20'], null);
    expect(await order()).toEqual(['Light 80', 'Light 60', 'Light 40', 'Light 20']);
    await submit(0);
    expect((await order()).at(-1)).toBe('Base');
    for (const name of ['Light 80', 'Light 60', 'Light 40', 'Light 20', 'Base']) expect(await lease()).toBe(name);
  });
  it('of what is moved twice at the same moment is one of the two', async () => {
    await submit(1, 2, 3, 4);
    await Promise.all([move(['Light 80'], 'Light 20'), move(['Light 60'], 'Light 20')]);
    expect([...(await order())].sort()).toEqual(['Light 20', 'Light 40', 'Light 60', 'Light 80']);
    expect((await order())[3]).toBe('Light 40');
  });
  it('puts what has a higher priority first, also what comes later, and what is moved takes the priority of its place', async () => {
    await submit(1, 2);
    const urgent = await submit(3);
    expect(await f.ok('PUT', `/api/batches/${urgent.id}/priority`, { priority: 'high' })).toEqual({ traces: 1 });
    await submit(4);
    expect(await order()).toEqual(['Light 60', 'Light 20', 'Light 40', 'Light 80']);
    await f.ok('PUT', `/api/traces/${await idOf('Light 20')}/priority`, { priority: 'low' });
    expect(await order()).toEqual(['Light 60', 'Light 40', 'Light 80', 'Light 20']);
    await move(['Light 20'], 'Light 60');
    expect((await open())[0]).toMatchObject({ priority: 'high', cells: [{ variantName: 'Light 20' }] });
    expect([await lease(), await lease()]).toEqual(['Light 20', 'Light 60']);
  });
  it('says what does not wait any more', async () => {
    await submit(1, 2);
    const first = await idOf('Light 20');
    await lease();
    expect((await f.call('POST', '/api/queue/move', { traceIds: [first], before: null })).data).toMatchObject({
      code: 'WRONG_STATE',
      message: expect.stringMatching(/do not wait any more/),
    });
  });
});

describe('pausing', () => {
  it('of a trace that waits leaves it its place', async () => {
    await submit(1, 2, 3);
    const second = await idOf('Light 40');
    await f.ok('POST', `/api/traces/${second}/pause`);
    expect((await open())[1]).toMatchObject({ id: second, state: 'paused' });
    expect([await lease(), await lease(), await lease()]).toEqual(['Light 20', 'Light 60', null]);
    await f.ok('POST', `/api/traces/${second}/resume`);
    expect(await lease()).toBe('Light 40');
    expect((await f.call('POST', `/api/traces/${second}/resume`)).data).toMatchObject({ code: 'WRONG_STATE' });
  });
  it('of a trace that renders ends its attempt, and keeps the slices that are done', async () => {
    await submit(1);
    const l = (await f.node.lease(ENGINE))!;
    const rows = [0, 1, 2, 3].map((row) => ({ fromRow: row, toRow: row + 1 }));
    await f.node.cut(l, { engine: ENGINE, samples: 12, tileRows: 4, slices: rows });
    const { claimed } = await f.node.claim(l, []);
    await f.node.sliceDone(claimed!.id, new Uint8Array(1), { token: claimed!.token, seconds: 1, rays: 1, paths: 1 });
    await f.node.claim(l, [claimed!.id]);
    await f.ok('POST', `/api/traces/${l.traceId}/pause`);
    const report = { fraction: 0.5, samplesDone: 6, stage: 'tracing', noise: null } as const;
    expect((await f.node.progress(l, report)).goOn).toBe(false);
    const [paused] = await open();
    expect(paused).toMatchObject({ state: 'paused', fraction: 0.25 });
    expect(paused!.slices.map((s) => s.state)).toEqual(['done', 'waiting', 'waiting', 'waiting']);
    await f.ok('POST', `/api/traces/${l.traceId}/resume`);
    const again = (await f.node.lease(ENGINE))!;
    expect(again.cut!.slices.map((s) => s.state)).toEqual(['done', 'waiting', 'waiting', 'waiting']);
  });
  it('of all hands nothing out, which the database remembers, and gives back what renders', async () => {
    await submit(1, 2);
    await lease();
    await f.ok('PUT', '/api/queue/held', { held: true });
    expect(await queue()).toMatchObject({
      isHeld: true,
      pausedFor: expect.stringMatching(/By hand/),
      counts: { waiting: 2 },
    });
    expect(await f.node.lease(ENGINE)).toBeNull();
    const [row] = await f.running.db.query<{ value: boolean }[]>(`SELECT value FROM setting WHERE key = 'queue.held'`);
    expect(row!.value).toBe(true);
    await f.ok('PUT', '/api/queue/held', { held: false });
    expect(await lease()).toBe('Light 20');
  });
  it('of a batch leaves other batches alone', async () => {
    const first = await submit(1, 2);
    await submit(3);
    expect(await f.ok('POST', `/api/batches/${first.id}/pause`)).toEqual({ traces: 2 });
    expect((await queue()).batches).toMatchObject([{ counts: { paused: 2 } }, { counts: { waiting: 1 } }]);
    expect([await lease(), await lease()]).toEqual(['Light 60', null]);
    expect(await f.ok('POST', `/api/batches/${first.id}/resume`)).toEqual({ traces: 2 });
    expect(await order()).toEqual(['Light 60', 'Light 20', 'Light 40']);
  });
});

describe('cancelling', () => {
  it('of a batch ends what is to come of it, and keeps what is done where it should', async () => {
    const batch = await submit(1, 2);
    const l = (await f.node.lease(ENGINE))!;
    await f.node.cut(l, { engine: ENGINE, samples: 12, tileRows: 1, slices: [{ fromRow: 0, toRow: 1 }] });
    const { claimed } = await f.node.claim(l, []);
    await f.node.sliceDone(claimed!.id, new Uint8Array(1), { token: claimed!.token, seconds: 1, rays: 1, paths: 1 });
    expect(await f.ok('POST', `/api/batches/${batch.id}/cancel?keep=true`)).toEqual({ traces: 2 });
    expect(await open()).toEqual([]);
    expect(await f.node.lease(ENGINE)).toBeNull();
    await f.ok('POST', `/api/traces/${l.traceId}/retry`);
    expect((await f.node.lease(ENGINE))!.cut!.slices[0]!.state).toBe('done');
    await f.ok('POST', `/api/traces/${l.traceId}/cancel`);
    await f.ok('POST', `/api/traces/${l.traceId}/retry`);
    expect((await f.node.lease(ENGINE))!.cut).toBeNull();
  });
});

describe('what has ended', () => {
  it('comes by pages, each trace once, and is found by state, project and name', async () => {
    await submit(1, 2, 3, 4);
    for (let i = 0; i < 3; i++) await renderTrace(f.node, (await f.node.lease(ENGINE))!, f.machine, never);
    const broken = (await f.node.lease(ENGINE))!;
    await renderTrace(f.node, { ...broken, sceneHash: 'f'.repeat(64) }, f.machine, never);
    const seen: string[] = [];
    for (let after = ''; ;) {
      const page = await f.ok<EndedTraces>('GET', `/api/queue/ended?limit=2${after}`);
      seen.push(...page.traces.map((t) => t.id));
      if (page.next === null) break;
      after = `&after=${encodeURIComponent(page.next)}`;
    }
    const [all] = await f.running.db.query<{ n: number }[]>(
      `SELECT count(*)::int n FROM trace WHERE state IN ('done', 'failed', 'undelivered', 'cancelled')`,
    );
    expect(new Set(seen).size).toBe(seen.length);
    expect(seen).toHaveLength(all!.n);
    const found = (q: string) => f.ok<EndedTraces>('GET', `/api/queue/ended?${q}`).then((r) => r.traces);
    expect((await found('state=failed')).map((t) => t.id)).toEqual([broken.traceId]);
    expect(await found('text=LIGHT%2020&state=done')).toHaveLength(1);
    expect(await found('text=50%25_')).toEqual([]);
    expect(await found('projectId=00000000-0000-4000-8000-000000000000')).toEqual([]);
    expect((await f.call('GET', '/api/queue/ended?after=yesterday')).status).toBe(400);
    // all that failed, at once
    expect(await f.ok('POST', '/api/queue/retry-failed')).toEqual({ traces: 1 });
    await renderTrace(f.node, (await f.node.lease(ENGINE))!, f.machine, never);
    expect(await found('state=failed')).toEqual([]);
  });
});

describe('entries and rows', () => {
  const { sweepNow } = { sweepNow: () => f.running.context.queue.entries.reconcile() };
  it.each([
    ['deleted', `DELETE FROM queue.job WHERE id = $1`],
    ['handed out, and nothing said since', `UPDATE queue.job SET state = 'active' WHERE id = $1`],
    ['completed', `UPDATE queue.job SET state = 'completed' WHERE id = $1`],
    ['given up', `UPDATE queue.job SET state = 'failed' WHERE id = $1`],
  ])('a trace whose entry is %s is handed out again, at its place', async (_, sql) => {
    await submit(1, 2, 3);
    const [row] = await f.running.db.query<{ job_id: string }[]>('SELECT job_id FROM trace WHERE id = $1', [
      await idOf('Light 40'),
    ]);
    await f.running.db.query(sql, [row!.job_id]);
    await sweepNow();
    await sweepNow();
    expect([await lease(), await lease(), await lease(), await lease()]).toEqual([
      'Light 20',
      'Light 40',
      'Light 60',
      null,
    ]);
  });
});
