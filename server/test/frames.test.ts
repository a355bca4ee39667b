// Sequences: a picture for each frame of a camera, one row for all of them, and a film to look at.
import { readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type {
  Board,
  CellFrame,
  DevelopAnswer,
  EndedTraces,
  Plan,
  Project,
  Queue,
  QueueTrace,
} from '@variscen/contract';
import { sayFrames } from '@variscen/core/scene';
import sharp from 'sharp';
import { afterAll, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import { renderTrace } from '../src/node/renderTrace.ts';
import { type Fixture, ENGINE, cellOf, helloOf, projectWithScene, startFixture } from './fixture.ts';

const never = new AbortController().signal;
const RANGES = [
  { first: 0, last: 4, step: 2 },
  { first: 12, last: 12, step: 1 },
];

let f: Fixture;
beforeAll(async () => {
  f = await startFixture();
  await f.node.hello(helloOf(2, 100e6));
});
afterAll(() => f?.close());
beforeEach(async () => {
  for (const b of (await f.ok<Queue>('GET', '/api/queue')).batches) await f.ok('POST', `/api/batches/${b.id}/cancel`);
});

async function sequence(name: string, frames: object[] | null = RANGES): Promise<Project> {
  const p = await projectWithScene(f, name, { moving: true });
  await setFrames(p, frames);
  return f.ok('GET', `/api/projects/${p.id}`);
}
const setFrames = (p: Project, frames: object[] | null) =>
  f.ok('PATCH', `/api/projects/${p.id}/cameras/${p.cameras[0]!.id}`, {
    handling: { ...p.cameras[0]!.handling, frames },
  });
const ask = (p: Project, frames?: number[]) => ({
  cells: [{ ...cellOf(p), ...(frames && { frames }) }],
  profileId: 'sketch',
});
const plan = (p: Project, frames?: number[]) => f.ok<Plan>('POST', `/api/projects/${p.id}/plan`, ask(p, frames));
const submit = (p: Project, frames?: number[]) => f.ok('POST', `/api/projects/${p.id}/batches`, ask(p, frames));
const cell = async (p: Project) => (await f.ok<Board>('GET', `/api/projects/${p.id}/board`)).cells[0]!;
const cellPath = (p: Project) => `/api/projects/${p.id}/cells/${cellOf(p).cameraId}/${cellOf(p).variantId}`;
const frames = (p: Project) => f.ok<CellFrame[]>('GET', `${cellPath(p)}/frames`);
const states = async (p: Project) => (await frames(p)).map((x) => `${x.frame} ${x.status}`);
const open = () => f.ok<QueueTrace[]>('GET', '/api/queue/open');
const rows = async () =>
  (await open()).map((t) => `${t.projectName} ${t.state} ${t.framesAlike ? sayFrames(t.framesAlike) : 'alone'}`);
async function renderNext(times: number): Promise<void> {
  for (let i = 0; i < times; i++) await renderTrace(f.node, (await f.node.lease(ENGINE))!, f.machine, never);
}
const pixels = (path: string) =>
  sharp(join(f.home, 'output', path))
    .raw()
    .toBuffer();
const none = { total: 4, never: 0, current: 0, outdated: 0, waiting: 0, rendering: 0, failed: 0 };

describe('a sequence', () => {
  let p: Project;
  beforeAll(async () => {
    p = await sequence('Unrolling');
  });

  it('is planned as a trace for each frame, whose names tell them apart', async () => {
    const { traces, errors } = await plan(p);
    expect(errors).toEqual([]);
    expect(traces.map((t) => t.cells.map((c) => [c.frame, c.path]))).toEqual([
      [[0, 'unrolling/front/base_v001_0000']],
      [[2, 'unrolling/front/base_v001_0002']],
      [[4, 'unrolling/front/base_v001_0004']],
      [[12, 'unrolling/front/base_v001_0012']],
    ]);
    expect(await cell(p)).toMatchObject({ status: 'never', render: null, frames: { ...none, never: 4 } });
  });
  it('is rendered frame by frame, and the board says how far it is', async () => {
    await submit(p);
    expect(await cell(p)).toMatchObject({ status: 'waiting', frames: { ...none, waiting: 4 } });
    await renderNext(1);
    const lease = (await f.node.lease(ENGINE))!;
    expect(lease.camera.frame).toBe(2);
    expect(await states(p)).toEqual(['0 current', '2 rendering', '4 waiting', '12 waiting']);
    expect(await cell(p)).toMatchObject({
      status: 'rendering',
      trace: { id: lease.traceId },
      frames: { ...none, current: 1, rendering: 1, waiting: 2 },
    });
    await renderTrace(f.node, lease, f.machine, never);
    await renderNext(2);
    expect(await cell(p)).toMatchObject({ status: 'current', frames: { ...none, current: 4 } });
    expect(await f.ok('GET', `/api/projects/${p.id}/cells`)).toEqual({ total: 1, current: 1 });
  });
  it('has the pictures that the camera gives at each frame by itself', async () => {
    const still = await sequence('Still', null);
    const camera = still.cameras[0]!;
    for (const [frame, version] of [
      [0, 'v001'],
      [12, 'v002'],
    ] as const) {
      await f.ok('PATCH', `/api/projects/${still.id}/cameras/${camera.id}`, {
        settings: { ...camera.settings, ...(frame && { frame }) },
      });
      await submit(still);
      await renderNext(1);
      const number = String(frame).padStart(4, '0');
      expect(await pixels(`unrolling/front/base_v001_${number}.png`)).toEqual(
        await pixels(`still/front/base_${version}.png`),
      );
    }
    expect(await pixels('unrolling/front/base_v001_0000.png')).not.toEqual(
      await pixels('unrolling/front/base_v001_0012.png'),
    );
    const exr = await readFile(join(f.home, 'output/unrolling/front/base_v001_0012.exr'));
    expect(exr.subarray(0, 4000).toString('latin1')).toMatch(/variscen:frame\0string\0....12/s);
  });
  it('is shown as a film, each picture as long as it stands for', async () => {
    const r = await fetch(`${f.base}${cellPath(p)}/film`);
    expect(r.headers.get('content-type')).toBe('image/webp');
    const film = await sharp(Buffer.from(await r.arrayBuffer()), { animated: true }).metadata();
    const frame = 1000 / 24;
    expect(film.pages).toBe(4);
    expect(film.delay).toEqual([2, 2, 8, 8].map((n) => Math.round(n * frame)));
    expect([film.width, film.pageHeight]).toEqual([48, 27]);
  });
  it('that gets more frames wants those alone, and one that is gone or altered is said', async () => {
    await setFrames(p, [...RANGES, { first: 20, last: 20, step: 1 }]);
    expect(await cell(p)).toMatchObject({ status: 'outdated', frames: { ...none, total: 5, current: 4, never: 1 } });
    const { traces } = await plan(p, [20]);
    expect(traces.map((t) => t.cells[0]!.path)).toEqual(['unrolling/front/base_v002_0020']);
    await submit(p, [20]);
    await renderNext(1);
    expect(await cell(p)).toMatchObject({ status: 'current' });
    await rm(join(f.home, 'output/unrolling/front/base_v001_0004.png'));
    expect(await states(p)).toEqual(['0 current', '2 current', '4 outdated', '12 current', '20 current']);
    expect(await cell(p)).toMatchObject({ status: 'outdated', fileFault: { fault: 'gone' } });
    const r = await fetch(`${f.base}${cellPath(p)}/film`);
    expect((await sharp(Buffer.from(await r.arrayBuffer()), { animated: true }).metadata()).pages).toBe(4);
  });
  it('becomes out of date as a whole when the look changes, and says by what', async () => {
    await f.running.db.query(`UPDATE project SET base = $2 WHERE id = $1`, [
      p.id,
      JSON.stringify([{ target: 'light:Lamp', property: 'light.intensity', value: 7 }]),
    ]);
    const now = await cell(p);
    expect(now).toMatchObject({ status: 'outdated', frames: { ...none, total: 5, outdated: 5 } });
    expect(now.differences).toEqual([expect.objectContaining({ subject: 'Lamp', is: expect.stringContaining('7') })]);
    expect((await plan(p)).traces.map((t) => t.cells[0]!.version)).toEqual([3, 3, 3, 3, 3]);
  });
  it('is refused where a frame is not the camera’s, and there is no film of what is not rendered', async () => {
    expect(await f.call('POST', `/api/projects/${p.id}/plan`, ask(p, [3, 5, 6]))).toMatchObject({
      status: 400,
      data: { message: '“Front” does not render frame 3, 5-6.' },
    });
    const other = await sequence('Not yet');
    expect(await f.call('GET', `${cellPath(other)}/film`)).toMatchObject({ status: 404 });
    expect(await f.call('GET', `${cellPath(await sequence('One picture', null))}/frames`)).toMatchObject({ data: [] });
  });
  it.each([
    [[], 'between 1 and 100 ranges'],
    [[{ first: 3, last: 1, step: 1 }], 'must not come after'],
    [[{ first: 0, last: 1_000_000, step: 1 }], '10000 at most'],
  ])('is not of frames such as %j', async (ranges, why) => {
    const { status, data } = await f.call('PATCH', `/api/projects/${p.id}/cameras/${p.cameras[0]!.id}`, {
      handling: { ...p.cameras[0]!.handling, frames: ranges },
    });
    expect([status, JSON.stringify(data)]).toEqual([400, expect.stringContaining(why)]);
  });
  it('of very many pictures is refused before it is planned', async () => {
    const many = await sequence('Many', [{ first: 0, last: 5999, step: 1 }]);
    const variant = await f.ok<{ id: string }>('POST', `/api/projects/${many.id}/variants`, { optionIds: [] });
    const cells = [cellOf(many), { ...cellOf(many), variantId: variant.id }];
    const { status, data } = await f.call('POST', `/api/projects/${many.id}/plan`, { cells, profileId: 'sketch' });
    expect([status, data]).toEqual([400, expect.objectContaining({ message: expect.stringContaining('10,000') })]);
  });
});

describe('names of frames', () => {
  it('have as many digits as the template says, where it says', async () => {
    const p = await sequence('Named');
    await f.ok('PATCH', `/api/projects/${p.id}`, { nameTemplate: '{camera}/{frame:6}/{variant}_{version}' });
    expect((await plan(p)).traces.map((t) => t.cells[0]!.path)).toEqual(
      ['000000', '000002', '000004', '000012'].map((n) => `front/${n}/base_v001`),
    );
    expect(await f.call('PATCH', `/api/projects/${p.id}`, { nameTemplate: '{frame:x}' })).toMatchObject({
      status: 400,
    });
  });
  it('of one sequence rise together past what lies on the disk', async () => {
    const p = await sequence('Unrolling'); // a second project of this name
    const versions = (await plan(p)).traces.map((t) => t.cells[0]!.version);
    expect(new Set(versions).size).toBe(1);
    expect(versions[0]).toBeGreaterThan(1);
  });
});

describe('in the queue', () => {
  it('what waits of a sequence is one row, and is paused, put in order and cancelled as one', async () => {
    const first = await sequence('First');
    const second = await sequence('Second');
    await submit(first);
    await submit(second);
    expect(await rows()).toEqual(['First waiting 0-4 by 2, 12', 'Second waiting 0-4 by 2, 12']);
    const [a, b] = (await open()) as [QueueTrace, QueueTrace];

    await f.ok('POST', '/api/queue/move', { traceIds: [], sequenceIds: [b.sequenceId], before: a.id });
    expect(await rows()).toEqual(['Second waiting 0-4 by 2, 12', 'First waiting 0-4 by 2, 12']);
    const lease = (await f.node.lease(ENGINE))!;
    expect(lease.traceId).toBe(b.id);
    expect(await rows()).toEqual(['Second rendering alone', 'Second waiting 2, 4, 12', 'First waiting 0-4 by 2, 12']);

    expect(await f.ok('POST', `/api/sequences/${b.sequenceId}/pause`)).toEqual({ traces: 4 });
    expect(await rows()).toEqual(['Second paused 0-4 by 2, 12', 'First waiting 0-4 by 2, 12']);
    expect(await f.ok('PUT', `/api/sequences/${a.sequenceId}/priority`, { priority: 'high' })).toEqual({ traces: 4 });
    expect((await open()).map((t) => [t.projectName, t.priority])).toEqual([
      ['First', 'high'],
      ['Second', 'normal'],
    ]);
    expect(await f.ok('POST', `/api/sequences/${b.sequenceId}/resume`)).toEqual({ traces: 4 });
    expect(await f.ok('POST', `/api/sequences/${a.sequenceId}/cancel`)).toEqual({ traces: 4 });
    expect(await rows()).toEqual(['Second waiting 0-4 by 2, 12']);
    // so is what has ended, and it is queued again as one
    const ended = await f.ok<EndedTraces>('GET', `/api/queue/ended?projectId=${first.id}`);
    expect(ended.traces.map((t) => [t.state, t.framesAlike, t.expectedS])).toEqual([
      ['cancelled', [0, 2, 4, 12], expect.any(Number)],
    ]);
    expect(await f.ok('POST', `/api/sequences/${a.sequenceId}/retry?state=failed`)).toEqual({ traces: 0 });
    expect(await f.ok('POST', `/api/sequences/${a.sequenceId}/retry?state=cancelled`)).toEqual({ traces: 4 });
    expect(await rows()).toEqual(['First waiting 0-4 by 2, 12', 'Second waiting 0-4 by 2, 12']);
    expect(await f.ok('POST', `/api/sequences/${a.sequenceId}/cancel`)).toEqual({ traces: 4 });
    expect(await f.call('POST', `/api/sequences/${p4()}/pause`)).toMatchObject({ status: 404 });
    expect(
      await f.call('POST', '/api/queue/move', { traceIds: [], sequenceIds: [a.sequenceId], before: null }),
    ).toMatchObject({ data: { code: 'WRONG_STATE' } });
  });
});
const p4 = () => '00000000-0000-4000-8000-000000000000';

describe('a sequence whose grade is changed', () => {
  it('is developed as one version, those of its frames alone whose light is stored, as they are rendered', async () => {
    const p = await sequence('Developed');
    const picture = async (id: string) =>
      sharp(Buffer.from(await (await fetch(`${f.base}/api/renders/${id}/files/png`)).arrayBuffer()))
        .raw()
        .toBuffer();
    await submit(p, [0, 2, 4]);
    await renderNext(3);
    const before = await frames(p);
    const set = [{ target: 'grade', property: 'grade.exposure', value: 1 }];
    await f.ok('POST', `/api/projects/${p.id}/recorded`, { destination: 'base', set });
    const answer = await f.ok<DevelopAnswer>('POST', `/api/projects/${p.id}/develop`, { cells: [cellOf(p)] });
    expect(answer).toMatchObject({ cells: [cellOf(p)], pictures: 3 });
    expect(answer.refused).toEqual([{ ...cellOf(p), why: expect.stringMatching(/^Of 1 of its 4 frames/) }]);
    await vi.waitFor(async () => expect(await states(p)).toEqual(['0 current', '2 current', '4 current', '12 never']), {
      timeout: 20_000,
    });
    const developed = await frames(p);
    expect(developed.map((x) => x.version)).toEqual([2, 2, 2, null]);
    await submit(p, [2]);
    await renderNext(1);
    const rendered = (await frames(p))[1]!;
    expect(rendered.version).toBe(3);
    const [was, made, traced] = await Promise.all(
      [before[1]!, developed[1]!, rendered].map((x) => picture(x.renderId!)),
    );
    // what is stored as halves may round a code otherwise
    const apart = (a: Buffer, b: Buffer) => a.reduce((most, v, i) => Math.max(most, Math.abs(v - b[i]!)), 0);
    expect(apart(made!, traced!)).toBeLessThanOrEqual(1);
    expect(apart(made!, was!)).toBeGreaterThan(20);
  });
});
