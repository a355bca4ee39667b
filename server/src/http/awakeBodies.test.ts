import { connect, type AddressInfo } from 'node:net';
import type { Server } from 'node:http';
import express from 'express';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { awakeBodies } from './awakeBodies.ts';

const SILENT_MS = 150;
let http: Server;
beforeEach(async () => {
  const app = express();
  app.use(awakeBodies(SILENT_MS));
  app.post('/', async (req, res) => {
    let bytes = 0;
    for await (const chunk of req) bytes += (chunk as Buffer).length;
    // what works on a body may take longer than a body may be silent
    await new Promise((r) => setTimeout(r, SILENT_MS * 3));
    res.json({ bytes });
  });
  app.use((_e: unknown, _req: express.Request, res: express.Response, _next: express.NextFunction) => res.destroy());
  http = await new Promise((resolve) => {
    const s = app.listen(0, '127.0.0.1', () => resolve(s));
  });
});
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
  const late = setTimeout(() => socket.end(), SILENT_MS * 20);
  await closed;
  clearTimeout(late);
  return { text, openMs: performance.now() - began };
}
const HEAD = 'POST / HTTP/1.1\r\nHost: 127.0.0.1\r\nConnection: close\r\nContent-Length: 6\r\n\r\n';

describe('a body', () => {
  it('that stops half-way does not stay open', async () => {
    const { text, openMs } = await send([`${HEAD}abc`], 10);
    expect(text).not.toContain('200 OK');
    expect(openMs).toBeLessThan(SILENT_MS * 15);
  });
  it('that arrives slowly but goes on arriving is taken, and what works on it may take its time', async () => {
    const { text } = await send([`${HEAD}a`, 'b', 'c', 'd', 'e', 'f'], SILENT_MS / 2);
    expect(text).toContain('200 OK');
    expect(text).toContain('{"bytes":6}');
  });
});
