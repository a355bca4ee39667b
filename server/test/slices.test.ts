// A long trace in slices: whatever happens to a node between two of them, what is done stays, each slice counts once,
// and the files are those of an undisturbed run.
import { readFile, readdir, rm, writeFile } from 'node:fs/promises';
import { randomUUID } from 'node:crypto';
import { join } from 'node:path';
import type { Lease, Project, Queue, QueueTrace, Render, SliceRows } from '@variscen/contract';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { renderTrace } from '../src/node/renderTrace.ts';
import { exrData } from './exrData.ts';
import { type Fixture, ENGINE, TOKEN, cellOf, projectWithScene, startFixture, helloOf } from './fixture.ts';
import { end, startNode } from './nodeProcess.ts';
import { type Fate, startProxy } from './proxy.ts';

const never = new AbortController().signal;
const SHORT = { VARISCEN_LOOK_S: '0.001', VARISCEN_SLICE_S: '0.001' };
const TIMES = { lookS: 0.001, sliceS: 0.001 };

let f: Fixture;
let p: Project;
beforeAll(async () => {
  f = await startFixture();
  await f.node.hello(helloOf(2, 100e6));
  const small = await projectWithScene(f, 'Slices');
  const camera = small.cameras[0]!;
  await f.ok('PATCH', `/api/projects/${small.id}/cameras/${camera.id}`, {
    settings: { ...camera.settings, widthPx: 720, heightPx: 480 },
  });
  p = await f.ok('GET', `/api/projects/${small.id}`);
});
afterAll(() => f?.close());

const machine = () => ({ ...f.machine, sliceTimes: TIMES });
const submit = () => f.ok('POST', `/api/projects/${p.id}/batches`, { cells: [cellOf(p)], profileId: 'sketch' });
const leased = async (): Promise<Lease> => (await f.node.lease(ENGINE))!;
const traceOf = async (id: string): Promise<QueueTrace> =>
  (await f.ok<Queue>('GET', '/api/queue')).traces.find((t) => t.id === id)!;
const films = () => readdir(join(f.home, 'films'));
async function until(what: () => Promise<boolean>, seconds = 60): Promise<void> {
  for (const end = Date.now() + seconds * 1000; Date.now() < end;) {
    if (await what()) return;
    await new Promise((r) => setTimeout(r, 20));
  }
  throw new Error('It did not come to that.');
}
/** The last picture. */
async function picture() {
  const [last] = await f.ok<Render[]>(
    'GET',
    `/api/projects/${p.id}/cells/${cellOf(p).cameraId}/${cellOf(p).variantId}`,
  );
  const file = (kind: string) => readFile(join(f.home, 'output', last!.files.find((x) => x.kind === kind)!.path));
  const shown = await sharp(await file('png'))
    .raw()
    .toBuffer();
  return { render: last!, shown, pixels: exrData(await file('exr')) };
}
const samePixels = (a: Awaited<ReturnType<typeof picture>>, b: Awaited<ReturnType<typeof picture>>) => {
  expect(a.shown.equals(b.shown)).toBe(true);
  expect(a.pixels.equals(b.pixels)).toBe(true);
};

let whole: Awaited<ReturnType<typeof picture>>;
beforeAll(async () => {
  await submit();
  await renderTrace(f.node, await leased(), f.machine, never);
  whole = await picture();
});

describe('a trace that takes long', () => {
  it('is cut into slices that the queue shows, and gives the same files; nothing of them is left', async () => {
    await submit();
    const lease = await leased();
    let seen: QueueTrace['slices'] = [];
    const rendering = renderTrace(f.node, lease, machine(), never);
    const watching = until(async () => {
      const t = await traceOf(lease.traceId);
      if (t.slices.filter((s) => s.state === 'done').length > seen.filter((s) => s.state === 'done').length)
        seen = t.slices;
      return t.state === 'done';
    });
    await Promise.all([rendering, watching]);
    expect(seen.map((s) => [s.fromRow, s.toRow])).toEqual([0, 1, 2, 3, 4].map((row) => [row, row + 1]));
    expect(seen[0]).toMatchObject({ state: 'done', nodeName: 'test node', seconds: expect.any(Number) });
    samePixels(await picture(), whole);
    expect((await traceOf(lease.traceId)).slices).toEqual([]);
    expect(await films()).toEqual([]);
    expect(await f.running.db.query('SELECT * FROM slice')).toEqual([]);
  });

  it('in one piece and in slices says the same of its samples, paths and rays', async () => {
    const { render } = await picture();
    expect([render.samples, render.rays]).toEqual([whole.render.samples, whole.render.rays]);
  });

  it('is there for other machines while its first look still goes on, and gives the same files', async () => {
    const { own } = await f.ok<{ own: Record<string, unknown>[] }>('GET', '/api/profiles');
    const { id: _, ...sketch } = own[0]!;
    const profileId = randomUUID();
    const wide = { ...sketch, name: 'Wide', widthPx: 960, samples: 2, timeLimitS: null, denoise: 0 };
    await f.ok('PUT', `/api/projects/${p.id}/profiles/${profileId}`, wide);
    const order = () => f.ok('POST', `/api/projects/${p.id}/batches`, { cells: [cellOf(p)], profileId });
    await order();
    await renderTrace(f.node, await leased(), f.machine, never);
    const alone = await picture();
    await order();
    const lease = await leased();
    const rendering = renderTrace(f.node, lease, { ...machine(), threads: 1 }, never);
    const { slices } = f.running.context.queue;
    let claimed: SliceRows | null = null;
    await until(async () => (claimed = await slices.claim(lease.traceId, 'another', [])) !== null);
    expect(claimed).toMatchObject({ fromRow: 0 }); // the node that looks has taken none
    await slices.release(lease.traceId, 'another', false);
    await rendering;
    samePixels(await picture(), alone);
  });

  it('goes on after its node was killed, with the slices that were done', async () => {
    await submit();
    let puts = 0;
    let reached = () => undefined as void;
    const third = new Promise<void>((resolve) => (reached = resolve));
    const proxy = await startProxy(f.base, async (what): Promise<Fate> => {
      if (what.startsWith('PUT') && what.includes('/film') && ++puts === 3) {
        reached();
        return new Promise<Fate>(() => undefined);
      }
      return 'pass';
    });
    const node = startNode(join(f.home, 'killed'), proxy.base, SHORT);
    await third;
    await end(node);
    await f.running.context.queue.gone('test node');
    await f.node.hello(helloOf(2, 100e6));
    const [row] = await f.running.db.query<{ id: string }[]>(`SELECT id FROM trace WHERE state = 'waiting'`);
    const states = await f.running.db.query<{ state: string }[]>('SELECT state FROM slice ORDER BY from_row');
    expect(states.map((s) => s.state)).toEqual(['done', 'done', 'waiting', 'waiting', 'waiting']);
    const direct = startNode(join(f.home, 'killed'), proxy.base, SHORT);
    await until(async () => (await traceOf(row!.id)).state === 'done');
    await end(direct);
    const claims = proxy.seen.filter((what) => what.includes('/done'));
    await proxy.close();
    expect(claims).toHaveLength(5); // two before, three after: none again
    samePixels(await picture(), whole);
    await f.node.hello(helloOf(2, 100e6));
  });

  it('that is cancelled while a slice is on its way does not end its node', async () => {
    await submit();
    let reached = () => undefined as void;
    const sending = new Promise<void>((resolve) => (reached = resolve));
    const proxy = await startProxy(f.base, async (what): Promise<Fate> => {
      if (!what.startsWith('PUT') || !what.includes('/film')) return 'pass';
      reached();
      return new Promise<Fate>(() => undefined);
    });
    const node = startNode(join(f.home, 'cancelled'), proxy.base, SHORT);
    await sending;
    const rendering = (await f.ok<Queue>('GET', '/api/queue')).traces.find((t) => t.state === 'rendering')!;
    await f.ok('POST', `/api/traces/${rendering.id}/cancel`);
    // it asks for the next one: it has heard of it, and goes on
    const asked = proxy.seen.length;
    await until(async () => proxy.seen.slice(asked).some((what) => what.endsWith('/api/node/lease')));
    expect(node.exitCode).toBeNull();
    await end(node);
    await proxy.close();
    await f.node.hello(helloOf(2, 100e6));
  });

  it('counts a slice once, whoever sends it again, and refuses what an older attempt sends', async () => {
    await submit();
    const lease = await leased();
    const rows = [0, 1, 2, 3, 4].map((row) => ({ fromRow: row, toRow: row + 1 }));
    const wish = { engine: ENGINE, samples: 12, tileRows: 5 };
    await expect(f.node.cut(lease, { ...wish, slices: rows.slice(1) })).rejects.toMatchObject({ code: 'INVALID' });
    const cut = await f.node.cut(lease, { ...wish, slices: rows });
    // asked again, as after a lost answer, the first cut stays
    expect((await f.node.cut(lease, { ...wish, slices: [{ fromRow: 0, toRow: 5 }] })).slices).toEqual(cut.slices);
    const { claimed } = await f.node.claim(lease, []);
    // its answer was lost on the way: the same slice again, for another attempt
    const again = (await f.node.claim(lease, [])).claimed!;
    expect(again.id).toBe(claimed!.id);
    const film = new Uint8Array(100);
    const result = (token: string) => ({ token, seconds: 1, rays: 1, paths: 1 });
    await expect(f.node.sliceDone(again.id, film, result(claimed!.token))).rejects.toMatchObject({
      code: 'STALE_ATTEMPT',
    });
    await f.node.sliceDone(again.id, film, result(again.token));
    await expect(f.node.sliceDone(again.id, film, result(again.token))).rejects.toMatchObject({
      code: 'STALE_ATTEMPT',
    });
    expect(
      (
        await f.call('POST', `/api/node/slices/${again.id}/done`, result(again.token), {
          authorization: `Bearer ${TOKEN}`,
        })
      ).status,
    ).toBe(200);
    const next = (await f.node.claim(lease, [again.id])).claimed!;
    expect(next.fromRow).toBe(1);
    await f.ok('POST', `/api/traces/${lease.traceId}/cancel`);
    await expect(f.node.sliceDone(next.id, film, result(next.token))).rejects.toMatchObject({ code: 'STALE_ATTEMPT' });
    expect(await films()).toEqual([]);
  });

  it('renders a slice anew whose film is damaged or gone', async () => {
    await submit();
    const stop = new AbortController();
    const lease = await leased();
    const rendering = renderTrace(f.node, lease, machine(), stop.signal);
    await until(async () => (await traceOf(lease.traceId)).slices.filter((s) => s.state === 'done').length >= 2);
    stop.abort();
    await rendering;
    const folder = join(f.home, 'films', lease.traceId);
    const [first, second] = (await readdir(folder)).filter((name) => !name.endsWith('.part'));
    await writeFile(join(folder, first!), 'damaged');
    await rm(join(folder, second!));
    await f.node.hello(helloOf(2, 100e6));
    await renderTrace(f.node, await leased(), machine(), never);
    expect((await traceOf(lease.traceId)).state).toBe('done');
    samePixels(await picture(), whole);
  });

  it('begins anew on a node with another engine', async () => {
    await submit();
    const lease = await leased();
    await f.node.cut(lease, { engine: ENGINE, samples: 12, tileRows: 5, slices: [{ fromRow: 0, toRow: 5 }] });
    await f.node.hello(helloOf(2, 100e6));
    const other = (await f.node.lease('an engine of another build'))!;
    expect([other.traceId, other.cut]).toEqual([lease.traceId, null]);
    await renderTrace(f.node, other, { ...machine(), engineBuild: 'an engine of another build' }, never);
    samePixels(await picture(), whole);
  });

  it('is set aside when nodes end twice over the same slice, and not when they end over different ones', async () => {
    await submit();
    const cut = async () => {
      const lease = await leased();
      const rows = [0, 1, 2, 3, 4].map((row) => ({ fromRow: row, toRow: row + 1 }));
      await f.node.cut(lease, { engine: ENGINE, samples: 12, tileRows: 5, slices: rows });
      return lease;
    };
    const crash = async (finishFirst: boolean) => {
      const lease = await cut();
      const { claimed } = await f.node.claim(lease, []);
      if (finishFirst) {
        const result = { token: claimed!.token, seconds: 1, rays: 1, paths: 1 };
        await f.node.sliceDone(claimed!.id, new Uint8Array(1), result);
        await f.node.claim(lease, [claimed!.id]);
      }
      await f.running.context.queue.gone('test node');
      await f.node.hello(helloOf(2, 100e6));
      return (await traceOf(lease.traceId)).state;
    };
    // over the second, then over the third: it goes on; over the third again: it does not
    expect(await crash(true)).toBe('waiting');
    expect(await crash(true)).toBe('waiting');
    expect(await crash(false)).toBe('failed');
  });

  it('has no more samples than its time limit lets it have, the same everywhere, in whole steps', async () => {
    await submit();
    const lease = await leased();
    const profile = { ...lease.profile, samples: 60_000, timeLimitS: 1.5 };
    await renderTrace(f.node, { ...lease, profile }, { ...f.machine, sliceTimes: { lookS: 0.3, sliceS: 0.3 } }, never);
    const { render } = await picture();
    expect(render.samples).toBeGreaterThan(0);
    expect(render.samples).toBeLessThan(60_000);
    // whole steps, so that a little more speed gives the same picture; few where the machine is busy
    expect(render.samples % 8 === 0 || [1, 2, 4].includes(render.samples)).toBe(true);
  });
});
