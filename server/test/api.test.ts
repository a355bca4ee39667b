// The HTTP API on a real database: what a client sees, and what stays in the rows.
import { connect } from 'node:net';
import { readFile, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import type { Project } from '@variscen/contract';
import { ROUTES } from '@variscen/contract';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ENTITIES } from '../src/db/entities/index.ts';
import { type Fixture, cellOf, projectWithScene, smallScene, startFixture, helloOf } from './fixture.ts';

let f: Fixture;
beforeAll(async () => {
  f = await startFixture();
});
afterAll(async () => {
  await f?.close();
});

describe('the database', () => {
  it('has the columns that the entities name', async () => {
    for (const entity of ENTITIES) {
      const meta = f.running.db.getMetadata(entity);
      const rows = await f.running.db.query<{ column_name: string; is_nullable: string; data_type: string }[]>(
        'SELECT column_name, is_nullable, data_type FROM information_schema.columns WHERE table_name = $1',
        [meta.tableName],
      );
      const types: Record<string, string> = { int: 'integer', timestamptz: 'timestamp with time zone' };
      expect(rows.map((r) => `${r.column_name} ${r.data_type} ${r.is_nullable}`).sort()).toEqual(
        meta.columns
          .map((c) => `${c.databaseName} ${types[String(c.type)] ?? String(c.type)} ${c.isNullable ? 'YES' : 'NO'}`)
          .sort(),
      );
    }
  });
});

describe('the API', () => {
  it('is described by an OpenAPI document with every route', async () => {
    const d = await f.ok<{ openapi: string; paths: Record<string, Record<string, { operationId: string }>> }>(
      'GET',
      '/api/openapi.json',
    );
    expect(d.openapi).toBe('3.1.0');
    expect(
      Object.values(d.paths)
        .flatMap((p) => Object.values(p).map((o) => o.operationId))
        .sort(),
    ).toEqual(Object.keys(ROUTES).sort());
  });
  it('says which part is not up', async () => {
    const { status, data } = await f.call<{ ok: boolean; parts: { name: string; ok: boolean }[] }>(
      'GET',
      '/api/health',
    );
    expect(status).toBe(503);
    expect(data.parts).toEqual([
      expect.objectContaining({ name: 'database', ok: true }),
      expect.objectContaining({ name: 'server', ok: true }),
      expect.objectContaining({ name: 'disk', ok: true }),
      expect.objectContaining({ name: 'render node', ok: false }),
    ]);
    await f.node.hello(helloOf(2, 100e6));
    expect((await f.call('GET', '/api/health')).status).toBe(200);
  });
  it.each([
    ['a name of nothing', 'POST', '/api/projects', { name: '  ' }, 400, /name: A name needs/],
    ['broken JSON', 'POST', '/api/projects', '{"name":', 400, /not valid JSON/],
    ['an id that is none', 'GET', '/api/projects/17', undefined, 400, /projectId/],
    [
      'a project that is not there',
      'GET',
      '/api/projects/00000000-0000-4000-8000-000000000000',
      undefined,
      404,
      /no such project/,
    ],
    ['an address that is not there', 'GET', '/api/nothing', undefined, 404, /no such address/],
    ['a hash that leads elsewhere', 'GET', '/api/assets/..%2F..%2Fetc%2Fpasswd', undefined, 400, /hash/],
  ])('%s gets a clear answer', async (_what, method, path, body, status, message) => {
    const r = await f.call<{ code: string; message: string; remedy: string }>(method, path, body);
    expect(r.status).toBe(status);
    expect(r.data.message).toMatch(message);
    expect(r.data.remedy).toBeTruthy();
  });
  it('does not hold for ever what a page does not take of its events', async () => {
    const { port } = new URL(f.base);
    const socket = connect(Number(port), '127.0.0.1');
    socket.write(`GET /api/events HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\n\r\n`);
    await new Promise((r) => socket.once('data', r));
    socket.pause(); // asleep, as a tab in the background
    const closed = new Promise<void>((r) => socket.once('close', () => r()));
    const event = { type: 'project', projectId: '00000000-0000-4000-8000-000000000000' } as const;
    for (let k = 0; k < 200; k++) {
      for (let i = 0; i < 1000; i++) f.running.context.events.emit(event);
      await new Promise((r) => setImmediate(r));
    }
    socket.resume();
    socket.on('error', () => undefined);
    await closed;
  });
  it('lets only render nodes do what render nodes do, and no other site change anything', async () => {
    expect((await f.call('POST', '/api/node/lease', { name: 'stranger' })).status).toBe(403);
    for (const origin of ['https://elsewhere.example', 'null'])
      expect(
        (
          await fetch(`${f.base}/api/projects`, {
            method: 'POST',
            headers: { origin, 'content-type': 'application/json' },
            body: '{"name":"x"}',
          })
        ).status,
      ).toBe(403);
  });
});

describe('a project', () => {
  it('refuses a broken scene by name and keeps nothing of it', async () => {
    const { id } = await f.ok<Project>('POST', '/api/projects', { name: 'Broken' });
    const r = await f.call<{ code: string; message: string }>(
      'POST',
      `/api/projects/${id}/scene?fileName=torn.glb`,
      new Uint8Array([0x67, 0x6c, 0x54, 0x46, 2, 0, 0, 0, 0xff, 0xff, 0, 0, 0, 0]),
    );
    expect(r.status).toBe(422);
    expect(r.data.message).toMatch(/“torn.glb” is cut short/);
    expect((await f.ok<Project>('GET', `/api/projects/${id}`)).revision).toBeNull();
    expect((await f.ok('GET', `/api/projects/${id}/board`)).cells).toEqual([]);
  });
  it('gives several contents in one answer', async () => {
    const hashes = await Promise.all(
      ['one', 'another'].map((t) => f.running.context.assets.put(new TextEncoder().encode(t))),
    );
    const bytes = new Uint8Array(await (await fetch(`${f.base}/api/assets?hashes=${hashes.join()}`)).arrayBuffer());
    const text = (at: number, n: number) => new TextDecoder().decode(bytes.subarray(at, at + n));
    expect([bytes[0], text(4, 3), bytes[7], text(11, 7), bytes.length]).toEqual([3, 'one', 7, 'another', 18]);
    expect((await fetch(`${f.base}/api/assets?hashes=${hashes[0]!},${'0'.repeat(64)}`)).status).toBe(404);
    expect((await fetch(`${f.base}/api/assets?hashes=..`)).status).toBe(400);
  });
  it('leaves nothing behind of a scene that could not be read to its end', async () => {
    const { id } = await f.ok<Project>('POST', '/api/projects', { name: 'Stopped' });
    const stop = new AbortController();
    const before = await readdir(join(f.home, 'assets'));
    const asked = fetch(`${f.base}/api/projects/${id}/scene?fileName=stopped.glb`, {
      method: 'POST',
      body: (await smallScene()) as Uint8Array<ArrayBuffer>,
      signal: stop.signal,
    }).catch(() => undefined);
    setTimeout(() => stop.abort(), 60);
    await asked;
    await new Promise((r) => setTimeout(r, 1500));
    const after = await f.ok<Project>('GET', `/api/projects/${id}`);
    const left = (await readdir(join(f.home, 'assets'))).filter((n) => !before.includes(n));
    expect(after.revision === null ? left.filter((n) => n !== '.incoming') : []).toEqual([]);
    expect(await readdir(join(f.home, 'assets', '.incoming')).catch(() => [])).toEqual([]);
  });
  it('says so when the process that reads a scene dies, and takes the scene the next time', async () => {
    const { id } = await f.ok<Project>('POST', '/api/projects', { name: 'Struck' });
    const glb = await smallScene();
    const children = async () =>
      (
        await Promise.all(
          (await readdir('/proc/self/task')).map((t) =>
            readFile(`/proc/self/task/${t}/children`, 'utf8').catch(() => ''),
          ),
        )
      ).flatMap((s) => s.split(' ').filter(Boolean).map(Number));
    const before = new Set(await children());
    const asked = f.call('POST', `/api/projects/${id}/scene?fileName=struck.glb`, glb);
    let answered = false;
    void asked.finally(() => (answered = true));
    let struck: number[] = [];
    while (!answered && !struck.length) {
      struck = (await children()).filter((c) => !before.has(c));
      await new Promise((r) => setTimeout(r, 5));
    }
    for (const c of struck) process.kill(c, 'SIGKILL');
    const r = await asked;
    expect(struck).toHaveLength(1);
    expect([r.status, r.data.code]).toEqual([503, 'TASK_ENDED']);
    expect(r.data.remedy).toMatch(/Try again/);
    expect((await f.ok<Project>('GET', `/api/projects/${id}`)).revision).toBeNull();
    expect(await readdir(join(f.home, 'assets', '.incoming')).catch(() => [])).toEqual([]);
    await f.ok('POST', `/api/projects/${id}/scene?fileName=struck.glb`, glb);
    expect((await f.ok<Project>('GET', `/api/projects/${id}`)).revision?.report.fileName).toBe('struck.glb');
  });
  it('takes a scene with its cameras', async () => {
    const p = await projectWithScene(f, 'With scene');
    expect(p.cameras.map((c) => [c.name, c.settings.widthPx])).toEqual([['Front', 144]]);
    expect(p.revision?.report).toMatchObject({ objects: 3, lights: 1, fileName: 'small.glb' });
    expect((await f.ok('GET', `/api/projects/${p.id}/board`)).cells).toEqual([
      expect.objectContaining({ status: 'never' }),
    ]);
  });
  it('names variants from their options, follows renames, and leaves names given by hand', async () => {
    const p = await projectWithScene(f, 'Names');
    const at = `/api/projects/${p.id}`;
    const lamp = await f.ok('POST', `${at}/options`, { facet: 'lighting', name: 'Low lamp' });
    const cloth = await f.ok('POST', `${at}/options`, { facet: 'materials', name: 'Blue cloth' });
    const auto = await f.ok('POST', `${at}/variants`, { optionIds: [cloth.id, lamp.id] });
    const hand = await f.ok('POST', `${at}/variants`, { optionIds: [lamp.id], name: 'For the printer' });
    expect(auto.name).toBe('Low lamp · Blue cloth');
    await f.ok('PATCH', `${at}/options/${lamp.id}`, { name: 'Late lamp' });
    const names = (await f.ok<Project>('GET', at)).variants.map((v) => v.name);
    expect(names).toEqual(['Base', 'Late lamp · Blue cloth', hand.name]);
    expect((await f.call('POST', `${at}/options`, { facet: 'lighting', name: 'LATE LAMP' })).data).toMatchObject({
      code: 'NAME_TAKEN',
    });
    const refused = await f.call('DELETE', `${at}/options/${lamp.id}`);
    expect(refused.status).toBe(409);
    expect(refused.data.message).toMatch(/“Late lamp · Blue cloth”, “For the printer”/);
  });
  it('captures edits as pending and writes them only when they are kept', async () => {
    const p = await projectWithScene(f, 'Pending');
    const at = `/api/projects/${p.id}`;
    const option = await f.ok('POST', `${at}/options`, { facet: 'lighting', name: 'Dim' });
    const destination = `option:${option.id}`;
    const change = { target: 'light:Lamp', property: 'light.intensity', value: 2 };
    await f.ok('POST', `${at}/pending`, { destination, set: [change] });
    let now = await f.ok<Project>('GET', at);
    expect([now.options[0]!.changes, now.pending]).toEqual(
      [[], [{ destination, changes: [change] }]].map((x, i) =>
        i ? x.map((y) => expect.objectContaining(y as object)) : [],
      ),
    );
    now = (await f.ok<{ project: Project }>('POST', `${at}/pending/keep`, { destination })).project;
    expect([now.options[0]!.changes, now.pending]).toEqual([[change], []]);
    for (const [bad, why] of [
      [
        { destination, set: [{ target: 'material:Cloth', property: 'material.roughness', value: 0.5 }] },
        /does not belong to the facet lighting/,
      ],
      [{ destination, set: [{ ...change, value: -4 }] }, /Strength goes from 0/],
      [{ destination: 'option:00000000-0000-4000-8000-000000000000', set: [change] }, /no longer exists/],
    ] as const) {
      const r = await f.call('POST', `${at}/pending`, bad);
      expect(r.status).toBeGreaterThanOrEqual(400);
      expect(r.data.message).toMatch(why);
    }
  });
  it('keeps play on the base as a new option of one facet and leaves the rest pending', async () => {
    const p = await projectWithScene(f, 'Keep as');
    const at = `/api/projects/${p.id}`;
    const light = { target: 'light:Lamp', property: 'light.on', value: false };
    const hide = { target: 'object:Sheet', property: 'object.shown', value: false };
    await f.ok('POST', `${at}/pending`, { destination: 'base', set: [light, hide] });
    const { project: now } = await f.ok<{ project: Project }>('POST', `${at}/pending/keep`, {
      destination: 'base',
      as: [{ facet: 'visibility', name: 'No sheet' }],
    });
    expect(now.options).toEqual([expect.objectContaining({ name: 'No sheet', facet: 'visibility', changes: [hide] })]);
    expect(now.pending).toEqual([expect.objectContaining({ destination: 'base', changes: [light] })]);
    expect(now.base).toEqual([]);
  });
});

describe('a plan', () => {
  it('says traces, exact memory and full names, and changes nothing', async () => {
    const p = await projectWithScene(f, 'Planned');
    const at = `/api/projects/${p.id}`;
    const grade = await f.ok('POST', `${at}/options`, {
      facet: 'grade',
      name: 'Bright',
      changes: [{ target: 'grade', property: 'grade.exposure', value: 1 }],
    });
    await f.ok('POST', `${at}/variants`, { optionIds: [grade.id] });
    const now = await f.ok<Project>('GET', at);
    const plan = await f.ok('POST', `${at}/plan`, { cells: [cellOf(now, 0), cellOf(now, 1)], profileId: 'sketch' });
    expect(plan.errors).toEqual([]);
    expect(plan.traces).toHaveLength(1); // a grade costs no trace
    expect(plan.traces[0]).toMatchObject({ widthPx: 48, heightPx: 27, objects: 3, droppedCount: 0, expectedS: null });
    expect(plan.traces[0].totalBytes).toBe(
      Object.values(plan.traces[0].bytes as Record<string, number>).reduce((a, b) => a + b, 0),
    );
    expect(plan.traces[0].cells.flatMap((c: { files: string[] }) => c.files)).toEqual([
      'planned/front/base_v001.exr',
      'planned/front/base_v001.png',
      'planned/front/bright_v001.png',
    ]);
    expect((await f.ok('GET', '/api/queue')).traces.filter((t: { projectId: string }) => t.projectId === p.id)).toEqual(
      [],
    );
  });
  it('with culling says what is left out, what it saves and what is lost', async () => {
    const p = await projectWithScene(f, 'Culled');
    const at = `/api/projects/${p.id}`;
    const camera = p.cameras[0]!;
    await f.ok('PATCH', `${at}/cameras/${camera.id}`, { settings: { ...camera.settings, cullMarginPct: 10 } });
    const plan = await f.ok('POST', `${at}/plan`, { cells: [cellOf(p)], profileId: 'sketch' });
    expect(plan.traces[0]).toMatchObject({ culls: true, objects: 2, droppedCount: 1, dropped: ['Crate far away'] });
    // of so small a scene asking what is left out takes more than it saves
    const { bytes, bytesWithoutCulling } = plan.traces[0];
    expect(bytes.vertices).toBeLessThan(bytesWithoutCulling.vertices);
    expect(plan.warnings.join()).toMatch(/shadow.*reflection.*bounced light/);
  });
  it('refuses names that clash, before anything starts', async () => {
    const p = await projectWithScene(f, 'Clash');
    const at = `/api/projects/${p.id}`;
    await f.ok('POST', `${at}/variants`, { optionIds: [], name: 'Other' });
    await f.ok('PATCH', at, { nameTemplate: '{project}/{camera}' });
    const now = await f.ok<Project>('GET', at);
    const cells = [cellOf(now, 0), cellOf(now, 1)];
    const plan = await f.ok('POST', `${at}/plan`, { cells, profileId: 'sketch' });
    expect(plan.errors[0].message).toMatch(
      /2 cells would write “clash\/front.exr”: “Front” in “Base” and “Front” in “Other”/,
    );
    expect((await f.call('POST', `${at}/batches`, { cells, profileId: 'sketch' })).data).toMatchObject({
      code: 'PLAN_HAS_ERRORS',
    });
    expect((await f.ok('GET', '/api/queue')).traces.filter((t: { projectId: string }) => t.projectId === p.id)).toEqual(
      [],
    );
    expect((await f.call('PATCH', at, { nameTemplate: '../{camera}' })).data.message).toMatch(/leads out/);
  });
});
