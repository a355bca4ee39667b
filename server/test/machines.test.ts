// Several machines: who may render, what each takes, and one large trace on two of them, whatever becomes of either.
import { mkdir, mkdtemp, readFile, readdir, rm, utimes, writeFile } from 'node:fs/promises';
import { type IncomingHttpHeaders, request } from 'node:http';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import type { MachineToken, QueueTrace } from '@variscen/contract';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { Traces } from '../src/db/entities/index.ts';
import { AssetStore, sha256 } from '../src/files/store.ts';
import { ServerClient } from '../src/node/client.ts';
import { CachedContent } from '../src/node/content.ts';
import { ENGINE, type Fixture, helloOf, startFixture } from './fixture.ts';
import { LargeTrace, type Taken, until } from './largeTrace.ts';
import { end, startNode } from './nodeProcess.ts';

let f: Fixture;
let t: LargeTrace;
beforeAll(async () => {
  f = await startFixture();
  t = await LargeTrace.of(f, 'Machines');
});
afterEach(() => t.leaveAll());
afterAll(() => f?.close());

const machines = () => t.machines();
const machine = (name: string) => t.machine(name);
const add = (name: string) => t.add(name);
const joined = (name: string) => t.joined(name);
const newest = () => t.newest();
/** Which nodes have slices of the newest trace, and which have finished some. */
const sharing = async () => {
  const { slices } = await newest();
  const of = (state: string) => new Set(slices.filter((s) => s.state === state).map((s) => s.nodeName));
  return { at: of('rendering'), finished: of('done') };
};

describe('a machine', () => {
  it('comes in with the token that was made for it, under its own name, until it is withdrawn', async () => {
    const { token } = await add('Lane');
    const lane = new ServerClient(f.base, token, 'Lane');
    expect(await lane.whoami()).toBe('Lane');
    await lane.hello(helloOf(2, 1e8));
    expect(await machine('Lane')).toMatchObject({ state: 'idle', threads: 2, isOwn: false, usedBytes: 1e8 });
    await expect(new ServerClient(f.base, token, 'Attic').hello(helloOf(2, 1e8))).rejects.toMatchObject({
      code: 'FORBIDDEN',
      message: 'This is the token of “Lane”, not of “Attic”.',
    });
    await expect(new ServerClient(f.base, 'guessed', 'Lane').lease(ENGINE)).rejects.toMatchObject({
      code: 'FORBIDDEN',
    });
    const kept = JSON.stringify(await f.running.db.query('SELECT * FROM machine'));
    expect(kept).toContain(sha256(new TextEncoder().encode(token)));
    expect(kept).not.toContain(token);

    const renewed = await f.ok<MachineToken>('POST', '/api/nodes/token', { name: 'Lane' });
    await expect(lane.lease(ENGINE)).rejects.toMatchObject({ code: 'FORBIDDEN' });
    const again = new ServerClient(f.base, renewed.token, 'Lane');
    expect(await again.whoami()).toBe('Lane');
    await f.ok('DELETE', '/api/nodes?name=Lane');
    await expect(again.whoami()).rejects.toMatchObject({ code: 'FORBIDDEN' });
    expect(await machine('Lane')).toBeUndefined();
  });

  it('has a name of its own, and one process at a time', async () => {
    const { token } = await add('Lane');
    expect((await f.call('POST', '/api/nodes', { name: 'LANE' })).data).toMatchObject({ code: 'NAME_TAKEN' });
    const lane = new ServerClient(f.base, token, 'Lane');
    await lane.hello(helloOf(2, 1e8));
    await expect(lane.hello(helloOf(2, 1e8))).rejects.toMatchObject({
      code: 'WRONG_STATE',
      message: 'Another node renders as “Lane” already.',
    });
    await lane.leave();
    expect(await machine('Lane')).toMatchObject({ state: 'gone' });
    await lane.hello(helloOf(2, 1e8)); // after the other has left
  });

  it('is known again after the server was restarted, with what was set', async () => {
    const { token } = await add('Lane');
    await f.ok('PUT', '/api/nodes', { name: 'Lane', isDrained: true, budgetMib: 900 });
    const { machines: kept } = f.running.context.queue;
    const fresh = new (kept.constructor as new (...a: unknown[]) => typeof kept)(f.running.db, () => new Date());
    await fresh.open();
    expect(fresh.nameOf(token)).toBe('Lane');
    expect(fresh.get('lane')).toMatchObject({ isDrained: true, budgetMib: 900 });
  });

  it('that this one runs on is drained, and not removed', async () => {
    await f.node.hello(helloOf(2, 1e8));
    expect((await f.call('DELETE', '/api/nodes?name=test%20node')).data).toMatchObject({ code: 'WRONG_STATE' });
    await t.submit('sketch');
    await f.ok('PUT', '/api/nodes', { name: 'test node', isDrained: true, budgetMib: null });
    expect(await f.node.lease(ENGINE)).toBeNull();
    expect(await machine('test node')).toMatchObject({ why: 'Takes nothing more' });
    await f.ok('PUT', '/api/nodes', { name: 'test node', isDrained: false, budgetMib: null });
    const lease = await f.node.lease(ENGINE);
    expect(lease).not.toBeNull();
    await f.ok('POST', `/api/traces/${lease!.traceId}/cancel`);
  });

  it('with little memory takes what fits it, and leaves the rest in its place', async () => {
    await f.node.hello(helloOf(2, 1e8));
    const { token } = await add('Small');
    const little = new ServerClient(f.base, token, 'Small');
    await little.hello(helloOf(2, 1e8));
    await f.ok('PUT', '/api/nodes', { name: 'Small', isDrained: false, budgetMib: 100 });
    await t.submit('sketch');
    await t.submit('sketch');
    const traces = (await f.ok<QueueTrace[]>('GET', '/api/queue/open?limit=10')).map((t) => t.id);
    const rows = f.running.db.getRepository(Traces);
    await rows.update({ id: traces[0]! }, { plannedBytes: 500e6 });
    await rows.update({ id: traces[1]! }, { plannedBytes: 50e6 });
    expect(await little.lease(ENGINE)).toMatchObject({ traceId: traces[1], budgetBytes: 100 * 2 ** 20 });
    expect(await little.lease(ENGINE)).toBeNull();
    expect(await f.node.lease(ENGINE)).toMatchObject({ traceId: traces[0], budgetBytes: null });
    for (const id of traces) await f.ok('POST', `/api/traces/${id}/cancel`);
  });
});

describe('one large trace on two machines', () => {
  let alone: Taken;
  beforeAll(async () => {
    await joined('North');
    await t.submit();
    await t.done();
    alone = await t.picture();
    expect((await machine('North'))!.work).toMatchObject({ traces: 1 });
    await t.leaveAll();
  });
  it('is shared, and the same to the bit', async () => {
    await Promise.all([joined('North'), joined('South')]);
    await t.submit();
    await until(async () => (await sharing()).finished.size === 2);
    await t.done();
    await t.isAs(alone);
    const work = (await machines()).filter((m) => !m.isOwn).map((m) => m.work);
    expect(work.map((w) => w.traces).sort()).toEqual([0, 1]);
    for (const w of work) expect(w).toMatchObject({ slices: expect.any(Number), seconds: expect.any(Number) });
    expect(work.every((w) => w.slices > 0 && w.seconds > 0 && w.paths > 0)).toBe(true);
  });

  it('is finished by the other where the one that leads it, or the one that helps, is killed', async () => {
    for (const killed of ['leads', 'helps'] as const) {
      const [North, South] = await Promise.all([joined('North'), joined('South')]);
      const started = { North, South };
      await t.submit();
      await until(async () => (await sharing()).at.size === 2);
      const leads = (await newest()).nodeName as keyof typeof started;
      const helps = leads === 'North' ? 'South' : 'North';
      const name = killed === 'leads' ? leads : helps;
      await end(started[name]);
      await f.running.context.queue.gone(name); // as who keeps it says
      expect(await machine(name)).toMatchObject({ state: 'gone', traceId: null });
      await t.done();
      await t.isAs(alone);
      await t.leaveAll();
    }
  });

  it('goes on without a helper whose hours end or that is drained', async () => {
    await Promise.all([joined('North'), joined('South')]);
    await t.submit();
    await until(async () => (await sharing()).at.size === 2);
    const helper = (await newest()).nodeName === 'North' ? 'South' : 'North';
    const hours = (await machine(helper))!.hours;
    const notUntil = new Date(Date.now() + 3_600_000).toISOString();
    await f.ok('PUT', '/api/node-hours', { name: helper, hours: { ...hours, notUntil } });
    await until(async () => !(await sharing()).at.has(helper));
    await f.ok('PUT', '/api/nodes', { name: helper, isDrained: true, budgetMib: null });
    await f.ok('PUT', '/api/node-hours', { name: helper, hours });
    await t.done();
    await t.isAs(alone);
    await f.ok('PUT', '/api/nodes', { name: helper, isDrained: false, budgetMib: null });
  });

  it('loses nothing to a machine that leaves, and waits for none that was removed', async () => {
    const north = await joined('North');
    await t.submit();
    await until(async () => (await sharing()).finished.size === 1);
    await joined('South');
    const left = new Promise((done) => north.once('exit', done));
    north.kill('SIGTERM');
    expect(await left).toBe(0);
    expect(await machine('North')).toMatchObject({ state: 'gone' });
    await until(async () => (await newest()).nodeName === 'South');
    await f.ok('DELETE', '/api/nodes?name=South');
    expect((await newest()).state).toBe('waiting');
    await joined('West');
    await t.done();
    await t.isAs(alone);
  });
});

describe('a node of another build', () => {
  it('is refused with the remedy, and ends', async () => {
    const other = await startFixture({ engineBuild: 'b'.repeat(64) });
    try {
      const { token } = await other.ok<MachineToken>('POST', '/api/nodes', { name: 'Old' });
      await expect(
        new ServerClient(other.base, token, 'Old').hello(helloOf(1, 1e8, 'a'.repeat(64))),
      ).rejects.toMatchObject({
        code: 'OTHER_BUILD',
        message: expect.stringContaining('another build (aaaaaaaaaaaa) than this one (bbbbbbbbbbbb)'),
        remedy: expect.stringContaining('same version'),
      });
      const node = startNode(join(other.home, 'old'), other.base, {
        VARISCEN_NODE_TOKEN: token,
        VARISCEN_NODE_NAME: 'Old',
      });
      expect(await new Promise((done) => node.once('exit', done))).toBe(3);
    } finally {
      await other.close();
    }
  });
});

describe('Variscen opened to other machines', () => {
  const userToken = 'a-token-of-people';
  let open: Fixture;
  beforeAll(async () => {
    open = await startFixture({ userToken, hosts: ['render-desk'] });
  });
  afterAll(() => open?.close());
  /** Status, of a request that a browser would send. fetch() sets the host itself. */
  const ask = (path: string, headers: Record<string, string> = {}, method = 'GET') =>
    new Promise<{ status: number; headers: IncomingHttpHeaders }>((done, failed) => {
      const r = request(open.base + path, { method, headers }, (response) => {
        response.resume();
        done({ status: response.statusCode!, headers: response.headers });
      });
      r.on('error', failed).end();
    });

  it('lets in who shows the token, once in the address and from then on by what the browser keeps', async () => {
    for (const path of ['/api/projects', '/api/openapi.json', '/api/nodes', '/api/queue'])
      expect((await ask(path)).status, path).toBe(401);
    expect((await ask('/api/projects', { authorization: 'Bearer wrong' })).status).toBe(401);
    expect((await ask('/api/projects?token=wrong')).status).toBe(401);
    expect((await ask('/api/projects', { authorization: `Bearer ${userToken}` })).status).toBe(200);
    const first = await ask(`/api/projects?token=${userToken}`);
    expect([first.status, first.headers.location]).toEqual([302, '/api/projects']);
    const [kept] = first.headers['set-cookie']!;
    expect(kept).toMatch(/HttpOnly; SameSite=Strict/);
    expect((await ask('/api/projects', { cookie: kept!.split(';')[0]! })).status).toBe(200);
  });

  it('lets nodes have content and no more than that', async () => {
    const added = await fetch(`${open.base}/api/nodes`, {
      method: 'POST',
      headers: { authorization: `Bearer ${userToken}`, 'content-type': 'application/json' },
      body: JSON.stringify({ name: 'Lane' }),
    });
    const authorization = `Bearer ${((await added.json()) as MachineToken).token}`;
    expect((await ask('/api/node/me', { authorization })).status).toBe(200);
    expect((await ask(`/api/assets/${'a'.repeat(64)}`, { authorization })).status).toBe(404);
    expect((await ask('/api/nodes', { authorization })).status).toBe(200);
    for (const path of ['/api/projects', '/api/queue', '/api/library'])
      expect((await ask(path, { authorization })).status, path).toBe(401);
    expect((await ask('/api/nodes?name=Lane', { authorization }, 'DELETE')).status).toBe(401);
    expect((await ask('/api/node/me', { authorization: `Bearer ${userToken}` })).status).toBe(403);
  });

  it('answers to its own names alone', async () => {
    const authorization = `Bearer ${userToken}`;
    expect((await ask('/api/projects', { authorization, host: 'render-desk:4460' })).status).toBe(200);
    expect((await ask('/api/projects', { authorization, host: 'elsewhere.test' })).status).toBe(403);
    const from = { authorization, host: 'render-desk', origin: 'http://elsewhere.test' };
    expect((await ask('/api/queue/retry-failed', from, 'POST')).status).toBe(403);
  });
});

describe('content that a machine has fetched', () => {
  let folder: string;
  beforeAll(async () => {
    folder = await mkdtemp(join(tmpdir(), 'variscen-content-'));
  });
  afterAll(() => rm(folder, { recursive: true, force: true }));
  const bytesOf = (n: number) => new Uint8Array(1000).fill(n);
  /** A server that counts what is asked of it. */
  function contentIn(root: string, mostBytes = 1e9) {
    const asked: string[] = [];
    const said: string[] = [];
    let now = 0;
    let most = 0;
    const known = new Map(Array.from({ length: 41 }, (_, n) => [sha256(bytesOf(n)), bytesOf(n)]));
    const server = {
      get: async (hash: string) => {
        asked.push(hash);
        most = Math.max(most, ++now);
        await new Promise((r) => setTimeout(r, 5));
        now--;
        return known.get(hash)!;
      },
    };
    const content = new CachedContent(new AssetStore(root), root, server, mostBytes, (m) => said.push(m));
    return { content, asked, said, hashes: [...known.keys()].slice(0, 40), known, most: () => most };
  }

  it('travels once, over few connections, also where it is wanted many times at once', async () => {
    const root = join(folder, 'once');
    const first = contentIn(root);
    const wanted = [...first.hashes, ...first.hashes];
    const got = await Promise.all(wanted.map((h) => first.content.get(h)));
    expect(got.map((b) => b[0])).toEqual([...first.hashes.keys(), ...first.hashes.keys()]);
    expect(first.asked.length).toBe(first.hashes.length);
    expect(first.most()).toBeLessThanOrEqual(6);
    const second = contentIn(root); // another process
    await Promise.all(second.hashes.map((h) => second.content.get(h)));
    expect(second.asked).toEqual([]);
  });
  it('comes again where it is damaged', async () => {
    const root = join(folder, 'damaged');
    const { content, asked, known } = contentIn(root);
    const hash = [...known.keys()][40]!; // that this process has not read yet
    const path = new AssetStore(root).path(hash);
    await mkdir(dirname(path), { recursive: true });
    await writeFile(path, bytesOf(99));
    expect((await content.get(hash))[0]).toBe(40);
    expect(asked).toEqual([hash]);
    expect((await readFile(path))[0]).toBe(40);
  });
  it('makes room by what was not used for longest', async () => {
    const root = join(folder, 'room');
    const { content, hashes } = contentIn(root, 5000);
    const store = new AssetStore(root);
    for (const [i, h] of hashes.slice(0, 8).entries()) {
      await content.get(h);
      await utimes(store.path(h), i, i);
    }
    await content.get(hashes[0]!); // used just now
    await content.trim();
    const kept = (await readdir(root, { recursive: true }))
      .map((x) => x.split('/').at(-1)!)
      .filter((x) => x.length === 64);
    expect(new Set(kept)).toEqual(new Set([0, 4, 5, 6, 7].map((i) => hashes[i]!)));
  });
  it('is rendered from even where it cannot be kept', async () => {
    const root = join(folder, 'file');
    await mkdir(folder, { recursive: true });
    await writeFile(root, 'a file where the folder should be');
    const { content, said, hashes } = contentIn(root);
    expect((await content.get(hashes[1]!))[0]).toBe(1);
    expect(said[0]).toContain('cannot be kept');
  });
});
