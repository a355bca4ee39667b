// What was traced is delivered, whatever fails between the node and the disk, and nothing is traced twice for it.
import { execFile, spawn } from 'node:child_process';
import { mkdir, readdir, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { Lease, Project, Queue, QueueTrace } from '@variscen/contract';
import { AOVS } from '@variscen/core/plan';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { startPostgres } from '../src/main/postgres.ts';
import { ServerClient } from '../src/node/client.ts';
import { FinishedTraces } from '../src/node/finishedTraces.ts';
import { renderTrace } from '../src/node/renderTrace.ts';
import {
  type Fixture,
  ENGINE,
  TOKEN,
  cellOf,
  projectWithScene,
  startFixture,
  helloOf,
  clusterFolder,
} from './fixture.ts';
import { end, startNode } from './nodeProcess.ts';
import { type Fate, startProxy } from './proxy.ts';

const run = promisify(execFile);
const never = new AbortController().signal;
const WAITS = {
  assets: { firstMs: 50, mostMs: 500, altogetherMs: 60_000 },
  results: { firstMs: 50, mostMs: 500, altogetherMs: 60_000 },
};

let f: Fixture;
beforeAll(async () => {
  f = await startFixture({}, true);
  await f.node.hello(helloOf(2, 100e6));
});
afterAll(() => f?.close());

const traceOf = async (p: Project): Promise<QueueTrace> =>
  (await f.ok<Queue>('GET', '/api/queue')).traces.find((t) => t.projectId === p.id)!;
const renders = async (p: Project) =>
  f.ok<{ version: number }[]>('GET', `/api/projects/${p.id}/cells/${cellOf(p).cameraId}/${cellOf(p).variantId}`);
const submit = (p: Project) =>
  f.ok('POST', `/api/projects/${p.id}/batches`, { cells: [cellOf(p)], profileId: 'sketch' });
const leased = async (client = f.node): Promise<Lease> => (await client.lease(ENGINE))!;
async function until(what: () => Promise<boolean>, seconds = 60): Promise<void> {
  for (const end = Date.now() + seconds * 1000; Date.now() < end;) {
    if (await what()) return;
    await new Promise((r) => setTimeout(r, 100));
  }
  throw new Error('It did not come to that.');
}

/** Counts what is traced. */
class Counted extends FinishedTraces {
  traced = 0;
  override add(...args: Parameters<FinishedTraces['add']>) {
    this.traced++;
    return super.add(...args);
  }
}
async function counted(name: string): Promise<Counted> {
  const finished = new Counted(join(f.home, name));
  await finished.open();
  return finished;
}

describe('a picture of real size', () => {
  const named = 'with 58 channels and more at 1920 × 1080 is delivered at the first attempt by the real node, whole';
  it(named, { timeout: 300_000 }, async () => {
    const p = await projectWithScene(f, 'Real size');
    const camera = p.cameras[0]!;
    await f.ok('PATCH', `/api/projects/${p.id}/cameras/${camera.id}`, {
      settings: { ...camera.settings, widthPx: 1920, heightPx: 1080 },
    });
    // its light apart from that of the sky; denoising would take as long again, and delivers nothing more
    const set = [{ target: 'light:Lamp', property: 'light.group', value: '2' }];
    await f.ok('POST', `/api/projects/${p.id}/recorded`, { destination: 'base', set });
    await f.ok('POST', `/api/projects/${p.id}/batches`, { cells: [cellOf(p)], profileId: 'final' });
    await f.running.db.query(`UPDATE trace SET profile = profile || $2::jsonb WHERE project_id = $1`, [
      p.id,
      JSON.stringify({ samples: 1, noise: null, denoise: 0, aovs: AOVS }),
    ]);
    const node = startNode(join(f.home, 'real-size'), f.base);
    const held = async () =>
      (await readdir(join(f.home, 'real-size'))).filter((name) => !['content', 'parts'].includes(name));
    try {
      await until(async () => !['waiting', 'rendering'].includes((await traceOf(p)).state), 280);
      await until(async () => (await held()).length === 0);
    } finally {
      await end(node);
    }
    expect(await traceOf(p)).toMatchObject({ state: 'done', attempts: 1, error: null });
    const exr = join(f.home, 'output/real-size/front/base_v001.exr');
    const header = (await run('exrheader', [exr])).stdout;
    expect(header.match(/(16|32)-bit floating-point/g)!.length).toBeGreaterThanOrEqual(58);
    expect(header).toMatch(/dataWindow \(type box2i\): \(0 0\) - \(1919 1079\)/);
    await run('exrmakepreview', [exr, join(f.home, 'preview.exr')]); // reads every block
  });
});

describe('a connection', () => {
  const cases: [string, (what: string, before: number) => Fate][] = [
    [
      'that is cut in the middle of each file, once',
      (what, before) => (what.startsWith('PUT') && what.includes('/files') && before === 0 ? 'cut' : 'pass'),
    ],
    ['that is cut again and again', (what, before) => (what.includes('kind=png') && before < 4 ? 'cut' : 'pass')],
    [
      'that loses the answers to files',
      (what, before) => (what.includes('/files') && before === 0 ? 'lose answer' : 'pass'),
    ],
    [
      'that loses the answer to the last word',
      (what, before) => (what.includes('/complete') && before < 2 ? 'lose answer' : 'pass'),
    ],
  ];
  it.each(cases)('%s costs no picture and no second trace', async (name, fate) => {
    const p = await projectWithScene(f, `Cut ${cases.findIndex((c) => c[0] === name)}`);
    await submit(p);
    const tries = new Map<string, number>();
    const proxy = await startProxy(f.base, (what) => {
      const before = tries.get(what) ?? 0;
      tries.set(what, before + 1);
      return fate(what, before);
    });
    const client = new ServerClient(proxy.base, TOKEN, 'test node', WAITS);
    const finished = await counted('cut');
    await renderTrace(client, await leased(client), { ...f.machine, finished }, never);
    await proxy.close();
    expect(await traceOf(p)).toMatchObject({ state: 'done', attempts: 1 });
    expect(finished.traced).toBe(1);
    expect(Math.max(...tries.values())).toBeGreaterThan(1); // it did fail
    expect(await renders(p)).toHaveLength(1);
    expect(await finished.held()).toEqual([]);
  });
});

describe('a database', () => {
  it('that is restarted in mid-delivery costs no picture and no second trace', async () => {
    const p = await projectWithScene(f, 'Restarted');
    await submit(p);
    let restarted = false;
    const proxy = await startProxy(f.base, async (what): Promise<Fate> => {
      if (!restarted && what.includes('kind=png')) {
        restarted = true;
        await f.database.stop();
        setTimeout(
          () =>
            void startPostgres(clusterFolder(f.home), () => undefined, {
              port: Number(new URL(f.database.url).port),
            }).then((again) => (f.database = again)),
          2000,
        );
      }
      return 'pass';
    });
    const client = new ServerClient(proxy.base, TOKEN, 'test node', WAITS);
    const finished = await counted('restarted');
    await renderTrace(client, await leased(client), { ...f.machine, finished }, never);
    // where the lease ran out meanwhile, the next attempt finds what is finished
    const again = (await traceOf(p)).state === 'waiting' ? await client.lease(ENGINE) : null;
    if (again) await renderTrace(client, again, { ...f.machine, finished }, never);
    await proxy.close();
    expect(restarted).toBe(true);
    expect(await traceOf(p)).toMatchObject({ state: 'done', error: null });
    expect(finished.traced).toBe(1);
    expect(await renders(p)).toHaveLength(1);
  });
});

describe('a finished trace', () => {
  it('whose place was taken meanwhile says so, waits on its node, and is delivered again without a second trace', async () => {
    const p = await projectWithScene(f, 'Taken');
    await submit(p);
    const lease = await leased();
    const theirs = join(f.home, 'output/taken/front/base_v001.png');
    await mkdir(join(theirs, '..'), { recursive: true });
    await writeFile(theirs, 'not ours');
    const before = await counted('taken');
    await renderTrace(f.node, lease, { ...f.machine, finished: before }, never);
    expect(await traceOf(p)).toMatchObject({
      state: 'undelivered',
      error: expect.stringMatching(/base_v001\.png” was put there by something else/),
    });
    expect((await stat(theirs)).size).toBe(8);
    expect(await renders(p)).toEqual([]);

    await f.ok('POST', `/api/traces/${lease.traceId}/retry`); // still in the way
    const after = await counted('taken'); // the node was restarted
    await renderTrace(f.node, await leased(), { ...f.machine, finished: after }, never);
    expect((await traceOf(p)).state).toBe('undelivered');

    await rm(theirs);
    await f.ok('POST', `/api/traces/${lease.traceId}/retry`);
    await renderTrace(f.node, await leased(), { ...f.machine, finished: after }, never);
    expect(await traceOf(p)).toMatchObject({ state: 'done', error: null });
    expect([before.traced, after.traced]).toEqual([1, 0]);
    expect(await renders(p)).toHaveLength(1);
    expect(await after.held()).toEqual([]);
  });

  it('whose node is killed while it delivers is delivered by the node that comes after', async () => {
    const p = await projectWithScene(f, 'Killed');
    await submit(p);
    let cut = () => undefined as void;
    const delivering = new Promise<void>((resolve) => (cut = resolve));
    let killed = false;
    const proxy = await startProxy(f.base, async (what): Promise<Fate> => {
      if (killed || !what.includes('kind=thumbnail')) return 'pass';
      cut();
      return new Promise<Fate>(() => undefined);
    });
    const first = startNode(join(f.home, 'killed'), proxy.base);
    await delivering;
    await end(first);
    killed = true;
    await f.running.context.queue.gone('test node');
    const assetsBefore = proxy.seen.filter((what) => what.includes('/api/assets/')).length;
    const second = startNode(join(f.home, 'killed'), proxy.base);
    await until(async () => (await traceOf(p)).state === 'done');
    await end(second);
    expect(proxy.seen.filter((what) => what.includes('/api/assets/'))).toHaveLength(assetsBefore);
    await proxy.close();
    expect(await traceOf(p)).toMatchObject({ state: 'done', attempts: 2 });
    expect(await renders(p)).toHaveLength(1);
  });

  it('that nobody waits for any more is named, and no other', async () => {
    const [wanted, cancelled] = [await projectWithScene(f, 'Wanted'), await projectWithScene(f, 'Unwanted')];
    for (const p of [wanted, cancelled]) await submit(p);
    const ids = [(await traceOf(wanted)).id, (await traceOf(cancelled)).id, '00000000-0000-4000-8000-000000000000'];
    await f.ok('POST', `/api/traces/${ids[1]}/cancel`);
    expect(await f.node.unwanted(ids)).toEqual(ids.slice(1));
    await f.ok('POST', `/api/traces/${ids[0]}/cancel`);
  });
});

describe('a lease', () => {
  it('is renewed while the thread that works can say nothing', async () => {
    const p = await projectWithScene(f, 'Busy');
    await submit(p);
    const lease = await leased();
    const leaseUntil = async () =>
      (
        await f.running.db.query<[{ t: Date }]>('SELECT lease_until t FROM trace WHERE id = $1', [lease.traceId])
      )[0].t.getTime();
    const dist = join(import.meta.dirname, '../dist/node');
    const code = `
      const { Heartbeat } = await import('${dist}/heartbeat/heartbeat.js');
      const { ServerClient } = await import('${dist}/client.js');
      new Heartbeat(new ServerClient('${f.base}', '${TOKEN}', 'test node'), ${JSON.stringify(lease)}, () => process.exit(2));
      await new Promise((r) => setTimeout(r, 300));
      process.send('held');
      Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0);`;
    const busy = spawn(process.execPath, ['--input-type=module', '-e', code], {
      stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    });
    await new Promise((held) => busy.once('message', held));
    const before = await leaseUntil();
    await until(async () => (await leaseUntil()) > before + 2000, 10);
    await end(busy);
    await f.ok('POST', `/api/traces/${lease.traceId}/cancel`);
  });
});

describe('the folder of finished traces', () => {
  it('is opened with a stranger’s files in it: they are neither traces nor touched, and what was half-written goes', async () => {
    const folder = join(f.home, 'strangers');
    const id = '00000000-0000-4000-8000-00000000000a';
    for (const name of ['notes', id, `${id}.half.part`]) await mkdir(join(folder, name), { recursive: true });
    await writeFile(join(folder, 'list.txt'), 'sacks, cups');
    const finished = await counted('strangers');
    expect(await finished.held()).toEqual([id]);
    expect((await readdir(folder)).sort()).toEqual([id, 'list.txt', 'notes'].sort());
    expect(await finished.get(id)).toBeNull(); // without a result it is not finished
  });
});
