// A night with what nobody ends or kills: clocks that are set, a network that swallows everything, a folder that cannot
// be written to any more. The picture is that of a quiet night, once, and meanwhile it is said what is the matter.
import { mkdir, mkdtemp, readdir, rename, rm, symlink } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Batch, Plan, Project, Queue, Render } from '@variscen/contract';
import { PROFILES } from '@variscen/core/plan';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { renderTrace } from '../src/node/renderTrace.ts';
import { ENGINE, type Fixture, cellOf, helloOf, projectWithScene, startFixture } from './fixture.ts';
import { LargeTrace, type Taken, until } from './largeTrace.ts';
import { startProxy } from './proxy.ts';
import { end } from './nodeProcess.ts';

const HOUR_MS = 3_600_000;
/** How far the server's clock is off. */
let offMs = 0;
let pictures: string;
let f: Fixture;
let t: LargeTrace;
let quiet: Taken;
beforeAll(async () => {
  pictures = await mkdtemp(join(tmpdir(), 'variscen-pictures-'));
  const now = () => new Date(Date.now() + offMs);
  f = await startFixture({ now, outputRoots: [join(pictures, 'root')] });
  t = await LargeTrace.of(f, 'Disturbed');
  await t.joined('North');
  await t.submit();
  await t.done();
  quiet = await t.picture();
  await t.leaveAll();
}, 240_000);
afterEach(async () => {
  offMs = 0;
  await t.leaveAll();
});
afterAll(async () => {
  await f?.close();
  await rm(pictures, { recursive: true, force: true });
});
const oneMore = async () => {
  const done = await t.doneSlices();
  await until(async () => (await t.doneSlices()) > done);
};

describe('a clock that is set', () => {
  it('an hour on, then two back, ends no attempt, and keeps nobody from seeing that a machine is lost, nor its work from another', async () => {
    // the other machine's own clock is an hour off
    const shifted = `const now = Date.now; Date.now = () => now() - ${HOUR_MS};`;
    await t.joined('South', { NODE_OPTIONS: `--import=data:text/javascript,${encodeURIComponent(shifted)}` });
    await f.ok('PUT', '/api/nodes', { name: 'South', isDrained: true, budgetMib: null });
    const north = await t.joined('North');
    await t.submit();
    await oneMore();
    offMs = HOUR_MS;
    await oneMore();
    offMs = -HOUR_MS;
    await oneMore();
    expect((await t.newest()).attempts).toBe(1);
    await end(north);
    await until(async () => (await t.machine('North'))!.state === 'gone');
    expect(Math.abs(Date.parse((await t.machine('North'))!.seenAt!) - Date.now() - offMs)).toBeLessThan(60_000);
    await until(async () => (await t.newest()).state === 'waiting');
    // as the database says it where its clock was set back, too: the entry would be handed out in an hour
    await f.running.db.query(`UPDATE queue.job SET start_after = now() + interval '1 hour' WHERE state = 'retry'`);
    await f.ok('PUT', '/api/nodes', { name: 'South', isDrained: false, budgetMib: null });
    await t.done();
    expect((await t.newest()).nodeName).toBe('South');
    await t.isAs(quiet);
  }, 180_000);
});

describe('a network that swallows everything', () => {
  it('for longer than a lease costs the slice that was rendered, and no more', async () => {
    let isBack = Promise.resolve();
    const proxy = await startProxy(f.base, () => isBack.then(() => 'pass' as const));
    try {
      await t.joined('North', {}, proxy.base);
      await t.submit();
      await oneMore();
      let comeBack = () => undefined as void;
      isBack = new Promise((back) => {
        comeBack = back;
      });
      await until(async () => (await t.newest()).state === 'waiting'); // its lease ran out
      expect((await t.newest()).fraction).toBeGreaterThan(0);
      comeBack();
      await t.done();
      expect(await t.newest()).toMatchObject({ state: 'done', attempts: 2, nodeName: 'North' });
      await t.isAs(quiet);
    } finally {
      await proxy.close();
    }
  }, 180_000);
});

describe('an output folder that cannot be written to any more', () => {
  it('keeps the finished picture with its reason, and takes it when it can, with nothing traced again', async () => {
    const root = join(pictures, 'root');
    const disk = join(pictures, 'disk');
    await mkdir(disk);
    await symlink(disk, root);
    const p = await projectWithScene(f, 'Read-only');
    const [{ id: _, ...sketch }] = PROFILES as unknown as [Record<string, unknown>];
    const profile = { ...sketch, name: 'Away', outputFolder: `${root}/finals` };
    const profileId = crypto.randomUUID();
    const changed = await f.ok<Project>('PUT', `/api/projects/${p.id}/profiles/${profileId}`, profile);
    expect(changed.profiles).toHaveLength(1);
    const cells = [cellOf(p)];
    await f.node.hello(helloOf(2, 1e8));
    await f.ok<Batch>('POST', `/api/projects/${p.id}/batches`, { cells, profileId });
    const lease = await f.node.lease(ENGINE);
    // where nobody may make a folder, whoever runs this
    await rename(root, `${root}-before`);
    await symlink('/sys/kernel', root);
    await renderTrace(f.node, lease!, f.machine, new AbortController().signal);
    const { traces } = await f.ok<Queue>('GET', '/api/queue');
    expect(traces[0]).toMatchObject({
      state: 'undelivered',
      error: expect.stringMatching(/could not be stored: (the folder may not be written to|the disk is read-only)/),
    });
    const history = () =>
      f.ok<Render[]>('GET', `/api/projects/${p.id}/cells/${cells[0]!.cameraId}/${cells[0]!.variantId}`);
    expect(await history()).toEqual([]);
    await rm(root);
    const gone = await f.ok<Plan>('POST', `/api/projects/${p.id}/plan`, { cells, profileId });
    expect(gone.errors.map((e) => e.message).join()).toMatch(/is not there\. Make it, or connect its disk/);
    await rename(`${root}-before`, root);
    await f.ok('POST', `/api/traces/${traces[0]!.id}/retry`);
    const again = await f.node.lease(ENGINE);
    expect(again!.traceId).toBe(lease!.traceId);
    const cannotTrace = { get: () => Promise.reject(new Error('It is traced again.')) };
    await renderTrace(f.node, again!, { ...f.machine, content: cannotTrace }, new AbortController().signal);
    expect(await history()).toHaveLength(1);
    expect((await readdir(join(disk, 'finals/read-only/front'))).sort()).toEqual([
      'base_v001.exr',
      'base_v001.png',
      'base_v001.thumb.png',
    ]);
  });
});
