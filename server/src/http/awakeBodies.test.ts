import { connect, type AddressInfo } from 'node:net';
import type { Server } from 'node:http';
import express from 'express';
import { afterEach, describe, expect, it } from 'vitest';
import { awakeBodies } from './awakeBodies.ts';

let http: Server;

/** A server whose bodies may be silent for so long, and whose work on one takes longer than that. */
async function listen(silentMs: number): Promise<void> {
  const app = express();
  app.use(awakeBodies(silentMs));
  app.post('/', async (req, res) => {
    let bytes = 0;
    for await (const chunk of req) bytes += (chunk as Buffer).length;
    await new Promise((r) => setTimeout(r, silentMs * 1.2));
    res.json({ bytes });
  });
  app.use((_e: unknown, _req: express.Request, res: express.Response, _next: express.NextFunction) => res.destroy());
  http = await new Promise((resolve) => {
    const s = app.listen(0, '127.0.0.1', () => resolve(s));
  });
}
afterEach(() => {
  http.closeAllConnections();
  http.close();
});

/** What a raw connection gets back, and how long it stayed open. */
async function send(parts: readonly string[], everyMs: number): Promise<{ text: string; openMs: number }> {
  const socket = connect((http.address() as AddressInfo).port, '127.0.0.1');
  const began = performance.now();
  let text = '';
  socket.on('data', (d) => (text += d.toString()));
  socket.on('error', () => undefined);
  const closed = new Promise<void>((r) => socket.once('close', () => r()));
  for (const part of parts) {
    if (!socket.destroyed) socket.write(part);
    await new Promise((r) => setTimeout(r, everyMs));
  }
  const late = setTimeout(() => socket.end(), 10_000);
  await closed;
  clearTimeout(late);
  return { text, openMs: performance.now() - began };
}
const HEAD = 'POST / HTTP/1.1\r\nHost: 127.0.0.1\r\nConnection: close\r\nContent-Length: 6\r\n\r\n';

describe('a body', () => {
  it('that stops half-way does not stay open', async () => {
    await listen(150);
    const { text, openMs } = await send([`${HEAD}abc`], 10);
    expect(text).not.toContain('200 OK');
    expect(openMs).toBeLessThan(9000);
  });
  it('that arrives slowly but goes on arriving is taken, and what works on it may take its time', async () => {
    // all of it takes longer than it may be silent, its gaps a fifth of that: a busy machine stretches them
    await listen(1000);
    const { text } = await send([`${HEAD}a`, 'b', 'c', 'd', 'e', 'f'], 200);
    expect(text).toContain('200 OK');
    expect(text).toContain('{"bytes":6}');
  });
});
