// A disk that is nearly full, by a real file that takes the space: everything waits and says so, nothing fails in turn,
// and it goes on when there is space.
import { execFile } from 'node:child_process';
import { rm, statfs } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { Health, Queue } from '@variscen/contract';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { renderTrace } from '../src/node/renderTrace.ts';
import { type Fixture, ENGINE, cellOf, projectWithScene, smallScene, startFixture, helloOf } from './fixture.ts';

const GIB = 2 ** 30;
let f: Fixture;
let ballast: string;
beforeAll(async () => {
  const { bavail, bsize } = await statfs(tmpdir());
  f = await startFixture({ reserveBytes: bavail * bsize - GIB });
  ballast = join(f.home, 'ballast');
});
afterAll(async () => {
  await f?.close();
});
const fill = () => promisify(execFile)('fallocate', ['-l', String(2 * GIB), ballast]);
const queue = () => f.ok<Queue>('GET', '/api/queue');

it('waits and says so, takes nothing by half, and goes on when there is space', async () => {
  const p = await projectWithScene(f, 'Nearly full');
  await f.node.hello(helloOf(2, 100e6));
  await f.ok('POST', `/api/projects/${p.id}/batches`, { cells: [cellOf(p)], profileId: 'sketch' });
  await fill();
  try {
    // queued traces stay queued
    for (let i = 0; i < 3; i++) expect(await f.node.lease(ENGINE)).toBeNull();
    const { traces, pausedFor } = await queue();
    expect([traces[0]!.state, traces[0]!.attempts]).toEqual(['waiting', 0]);
    expect(pausedFor).toMatch(/MB are free on the disk, and .* MB are kept free\. Rendering goes on as soon/);
    const health = (await f.call<Health>('GET', '/api/health')).data;
    expect(health.parts.find((x) => x.name === 'disk')).toMatchObject({ ok: false });
    // what is imported is refused with what is needed, and nothing of it is kept
    const other = await f.ok<{ id: string }>('POST', '/api/projects', { name: 'Cannot come in' });
    const refused = await f.call('POST', `/api/projects/${other.id}/scene?fileName=a.glb`, await smallScene());
    expect([refused.status, refused.data.code]).toEqual([507, 'NO_SPACE']);
    expect(refused.data.message).toMatch(/MB are needed beside the .* MB that are kept free/);
    // what is small goes on
    await f.ok('PATCH', `/api/projects/${p.id}`, { name: 'Still nearly full' });
  } finally {
    await rm(ballast, { force: true });
  }
  const lease = await f.node.lease(ENGINE);
  await renderTrace(f.node, lease!, f.machine, new AbortController().signal);
  expect((await queue()).pausedFor).toBeNull();
  expect((await queue()).traces[0]!.state).toBe('done');
});
