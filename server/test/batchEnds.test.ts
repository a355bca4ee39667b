// The end of a batch: what came of it, and that it is told once to pages and to an address, whatever fails meanwhile.
import { type ChildProcess, spawn } from 'node:child_process';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import type { BatchSummary, Project, ServerEvent, WebhookState } from '@variscen/contract';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { renderTrace } from '../src/node/renderTrace.ts';
import { ENGINE, type Fixture, helloOf, projectWithScene, startFixture } from './fixture.ts';

const never = new AbortController().signal;
let f: Fixture;
let p: Project;
const events: ServerEvent[] = [];
beforeAll(async () => {
  f = await startFixture();
  await f.node.hello(helloOf(2, 100e6));
  p = await projectWithScene(f, 'Ends');
  const camera = p.cameras[0]!;
  await f.ok('POST', `/api/projects/${p.id}/cameras`, {
    name: 'Second',
    settings: { ...camera.settings, focalLengthMm: camera.settings.focalLengthMm + 10 },
  });
  p = await f.ok('GET', `/api/projects/${p.id}`);
  f.running.context.events.listen((e) => events.push(e));
});
afterEach(() => f.ok('PUT', '/api/webhook', { url: null, secret: null }));
afterAll(() => f?.close());

const cells = () => p.cameras.map((c) => ({ cameraId: c.id, variantId: p.variants[0]!.id }));
const queue = async () =>
  (await f.ok<{ id: string }>('POST', `/api/projects/${p.id}/batches`, { cells: cells(), profileId: 'sketch' })).id;
const summary = (id: string) => f.ok<BatchSummary>('GET', `/api/batches/${id}/summary`);
const sweep = async () => {
  await f.running.context.queue.ends.sweep();
  await f.running.context.queue.ends.settled();
};
const renderNext = async () => renderTrace(f.node, (await f.node.lease(ENGINE))!, f.machine, never);
const failNext = async () => {
  const lease = (await f.node.lease(ENGINE))!;
  await f.node.fail(lease, 'The mesh “Kettle” is damaged.', false);
  return lease.traceId;
};
const ended = (id: string) => events.filter((e) => e.type === 'batch-ended' && e.batchId === id);

/** Takes words, as whatever stands there would; answers the first so many with 503. */
async function receiver(refusals = 0) {
  const words: { body: { event: string; summary?: BatchSummary; link?: string }; delivery: string }[] = [];
  let asked = 0;
  const server = createServer((request, response) => {
    const parts: Buffer[] = [];
    request.on('data', (x: Buffer) => parts.push(x));
    request.on('end', () => {
      const isRefused = asked++ < refusals;
      response.writeHead(isRefused ? 503 : 200).end();
      const delivery = request.headers['x-variscen-delivery'] as string;
      if (!isRefused) words.push({ body: JSON.parse(Buffer.concat(parts).toString()), delivery });
    });
  });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/`;
  return { url, words, asked: () => asked, close: () => new Promise((done) => server.close(done)) };
}

describe('a batch that ends', () => {
  it('says what came of it, what failed and why, and how well it was expected; going on, it is open again', async () => {
    const id = await queue();
    expect(await summary(id)).toMatchObject({ endedAt: null, cells: { done: 0, failed: 0, cancelled: 0, open: 2 } });
    await renderNext();
    await sweep();
    expect(ended(id)).toEqual([]);
    const failedId = await failNext();
    await sweep();
    const came = await summary(id);
    expect(came).toMatchObject({
      projectName: 'Ends',
      profileName: 'Sketch',
      endedAt: expect.any(String),
      cells: { done: 1, failed: 1, cancelled: 0, open: 0 },
      failed: [{ traceId: failedId, cells: 'Second in Base', error: 'The mesh “Kettle” is damaged.' }],
      text: expect.stringMatching(/^Ends, Sketch: 1 of 2 cells is done, 1 failed, in \d+ s\.$/),
    });
    expect(came.peakBytes).toBeGreaterThan(1e6);
    expect(came.fileBytes).toBeGreaterThan(1000);
    expect(ended(id)).toMatchObject([{ projectId: p.id, text: came.text }]);
    await sweep();
    expect(ended(id)).toHaveLength(1);
    expect((await f.ok<BatchSummary[]>('GET', '/api/batches/ended?limit=1'))[0]).toMatchObject({ id });

    await f.ok('POST', `/api/traces/${failedId}/retry`);
    await sweep();
    expect(await summary(id)).toMatchObject({ endedAt: null, cells: { open: 1 } });
    await renderNext();
    await sweep();
    expect((await summary(id)).cells).toEqual({ done: 2, failed: 0, cancelled: 0, open: 0 });
    expect(ended(id)).toHaveLength(2);
    expect((await summary(id)).tookS).toBeGreaterThan(0);
    expect((await summary(id)).estimates).toEqual({ traces: 0, expectedS: 0, tookS: 0, well: 0 }); // the first ever
    const next = await queue();
    await renderNext();
    await renderNext();
    const { estimates } = await summary(next);
    expect(estimates.traces).toBe(2);
    expect(estimates.expectedS > 0 && estimates.tookS > 0 && estimates.well <= 2).toBe(true);
    await sweep();
  });

  it('by hand alone is told to nobody', async () => {
    const there = await receiver();
    await f.ok('PUT', '/api/webhook', { url: there.url });
    const id = await queue();
    await f.ok('POST', `/api/batches/${id}/cancel`);
    await sweep();
    expect(await summary(id)).toMatchObject({ cells: { cancelled: 2 } });
    expect([ended(id), there.words]).toEqual([[], []]);
    await there.close();
  });
});

describe('the word of it', () => {
  it('is posted to the address, once, also where the first tries come to nothing', async () => {
    const there = await receiver(2);
    await f.ok('PUT', '/api/webhook', { url: there.url });
    const id = await queue();
    await renderNext();
    await renderNext();
    await sweep();
    await sweep();
    expect(there.asked()).toBe(3);
    expect(there.words).toMatchObject([{ body: { event: 'batch-ended', summary: { id, cells: { done: 2 } } } }]);
    expect(there.words[0]!.body.link).toBe(`${f.base}/queue`);
    expect(await f.ok('GET', '/api/webhook')).toMatchObject({ url: there.url, isSigned: false, last: { error: null } });
    await there.close();
  });

  it('is said again by a server that starts later', async () => {
    const there = await receiver();
    await there.close();
    await f.ok('PUT', '/api/webhook', { url: there.url });
    const id = await queue();
    await renderNext();
    await renderNext();
    // it ended, and then the server did
    await f.running.db.query('UPDATE batch SET ended_at = now() WHERE id = $1', [id]);
    await f.running.context.queue.ends.sweep(); // it is being tried where nobody is when the address changes
    const back = await receiver();
    await f.ok('PUT', '/api/webhook', { url: back.url });
    await sweep();
    expect(back.words.map((w) => w.body.summary?.id)).toEqual([id]);
    await back.close();
  });

  it('that never arrives holds nothing up, and is said to', async () => {
    const there = await receiver();
    await there.close();
    await f.ok('PUT', '/api/webhook', { url: there.url });
    const state = await f.ok<WebhookState>('POST', '/api/webhook/try');
    expect(state.last!.error).toMatch(/^It cannot be reached: /);
    for (const url of ['ftp://there', 'nowhere', 'javascript:alert(1)'])
      expect((await f.call('PUT', '/api/webhook', { url })).data).toMatchObject({ code: 'INVALID' });
  });

  it('is signed with the secret, which nobody can read; the receiver that ships says whether it holds', async () => {
    const started = spawn(process.execPath, [
      join(import.meta.dirname, '../../scripts/webhook-receiver.mjs'),
      ...['--port', '0', '--secret', 'lanterns'],
    ]);
    const says = outputOf(started);
    try {
      const url = (await says(/at (http:\S+)/))[1]!;
      await f.ok('PUT', '/api/webhook', { url, secret: 'lanterns' });
      await f.ok('PUT', '/api/webhook', { url }); // the secret stays
      expect(JSON.stringify(await f.ok('GET', '/api/webhook'))).not.toContain('lanterns');
      await f.ok('POST', '/api/webhook/try');
      await says(/POST \/ \(signed rightly\)/);
      await f.ok('PUT', '/api/webhook', { url, secret: 'kettles' });
      await f.ok('POST', '/api/webhook/try');
      await says(/NOT SIGNED RIGHTLY/);
    } finally {
      started.kill();
    }
  });
});

function outputOf(child: ChildProcess): (what: RegExp) => Promise<RegExpExecArray> {
  let text = '';
  child.stdout!.on('data', (x: Buffer) => (text += x.toString()));
  return async (what) => {
    for (let i = 0; i < 200; i++) {
      const found = what.exec(text);
      if (found) return found;
      await new Promise((r) => setTimeout(r, 50));
    }
    throw new Error(`It did not say ${what}: ${text}`);
  };
}
