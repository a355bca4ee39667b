// What has ended is rendered again as it was planned, whatever was edited since.
import { join } from 'node:path';
import type { Batch, Board, EndedTraces, Project, QueueTrace } from '@variscen/contract';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { renderTrace } from '../src/node/renderTrace.ts';
import { type Fixture, ENGINE, cellOf, helloOf, projectWithScene, startFixture } from './fixture.ts';

const never = new AbortController().signal;
let f: Fixture;
beforeAll(async () => {
  f = await startFixture();
  await f.node.hello(helloOf(2, 100e6));
});
afterAll(() => f?.close());

const submit = (p: Project) =>
  f.ok<Batch>('POST', `/api/projects/${p.id}/batches`, { cells: [cellOf(p)], profileId: 'sketch' });
async function renderAll(): Promise<void> {
  for (let lease = await f.node.lease(ENGINE); lease; lease = await f.node.lease(ENGINE))
    await renderTrace(f.node, lease, f.machine, never);
}
const ended = async (p: Project) =>
  (await f.ok<EndedTraces>('GET', `/api/queue/ended?projectId=${p.id}`)).traces.map((t) => t.id);
const rerun = (traceIds: string[]) =>
  f.call<Batch & { code: string; message: string }>('POST', '/api/queue/rerun', { traceIds });
const pixels = (path: string) =>
  sharp(join(f.home, 'output', path))
    .raw()
    .toBuffer();
const setLight = (p: Project, value: number) =>
  f.running.db.query(`UPDATE project SET base = $2 WHERE id = $1`, [
    p.id,
    JSON.stringify([{ target: 'light:Lamp', property: 'light.intensity', value }]),
  ]);

describe('a trace that has ended', () => {
  it('is rendered again with the look, the camera and the profile of then, under a new version', async () => {
    const p = await projectWithScene(f, 'Again');
    const camera = p.cameras[0]!;
    await submit(p);
    await renderAll();
    const [first] = await ended(p);
    await setLight(p, 3);
    await f.ok('PATCH', `/api/projects/${p.id}/cameras/${camera.id}`, {
      settings: { ...camera.settings, widthPx: 200, heightPx: 90 },
    });
    await submit(p);
    await renderAll();
    expect(await rerun([first!])).toMatchObject({ status: 200, data: { traces: 1, cells: 1 } });
    await renderAll();
    const [v1, v2, v3] = await Promise.all(['v001', 'v002', 'v003'].map((v) => pixels(`again/front/base_${v}.png`)));
    expect(v3).toEqual(v1);
    expect(v3).not.toEqual(v2);
    // which is not what the cell would be now
    const [cell] = (await f.ok<Board>('GET', `/api/projects/${p.id}/board`)).cells;
    expect(cell).toMatchObject({ status: 'outdated', render: { version: 3 } });
    expect(cell!.differences.map((d) => d.subject)).toEqual(expect.arrayContaining(['Lamp', 'Camera']));
  });
  it('of a sequence is one with the others, in one batch', async () => {
    const p = await projectWithScene(f, 'Walk', { moving: true });
    const [camera] = p.cameras;
    const handling = { ...camera!.handling, frames: [{ first: 2, last: 3, step: 1 }] };
    await f.ok('PATCH', `/api/projects/${p.id}/cameras/${camera!.id}`, { handling });
    await submit(p);
    await renderAll();
    const { traces } = await f.ok<EndedTraces>('GET', `/api/queue/ended?projectId=${p.id}`);
    expect(traces.map((t) => t.framesAlike)).toEqual([[2, 3]]);
    const body = { traceIds: [], sequenceIds: [traces[0]!.sequenceId] };
    expect(await f.ok('POST', '/api/queue/rerun', body)).toMatchObject({ traces: 2, cells: 2 });
    const open = await f.ok<QueueTrace[]>('GET', '/api/queue/open');
    expect(open.map((t) => [t.framesAlike, t.cells[0]!.version])).toEqual([[[2, 3], 2]]);
    await renderAll();
    expect(await pixels('walk/front/base_v002_0003.png')).toEqual(await pixels('walk/front/base_v001_0003.png'));
  });
  it('is refused where it is to come anyway, is gone, or its camera is', async () => {
    const p = await projectWithScene(f, 'Refused');
    await submit(p);
    const [open] = await f.ok<QueueTrace[]>('GET', '/api/queue/open');
    expect(await rerun([open!.id])).toMatchObject({ data: { code: 'WRONG_STATE' } });
    await renderAll();
    expect(await rerun(['00000000-0000-4000-8000-000000000009'])).toMatchObject({ status: 404 });
    expect(await rerun([])).toMatchObject({ status: 404 });
    const [other] = await ended(
      await f.ok<Project[]>('GET', '/api/projects').then((all) => all.find((x) => x.name === 'Again')!),
    );
    expect(await rerun([open!.id, other!])).toMatchObject({
      data: { message: expect.stringContaining('several projects') },
    });
    const settings = p.cameras[0]!.settings;
    await f.ok('POST', `/api/projects/${p.id}/cameras`, { name: 'Second', settings });
    await f.ok('DELETE', `/api/projects/${p.id}/cameras/${p.cameras[0]!.id}`);
    expect(await rerun([open!.id])).toMatchObject({
      status: 404,
      data: { message: '“Front” in “Base” is no longer in the project.' },
    });
    expect(await f.ok('GET', '/api/queue/open')).toEqual([]);
  });
});
