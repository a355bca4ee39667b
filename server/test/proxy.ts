// Stands between a node and the server, as a network that fails does: cuts connections in mid-request, loses answers,
// holds requests back.
import { type IncomingMessage, type Server, type ServerResponse, createServer, request } from 'node:http';
import type { AddressInfo } from 'node:net';

export type Fate = 'pass' | 'cut' | 'lose answer';

export interface Proxy {
  readonly base: string;
  /** What came, in order: "PUT /api/…". */
  readonly seen: string[];
  close(): Promise<void>;
}

const CUT_AFTER_BYTES = 1;

/** @param fateOf decides about each request before it is passed on */
export async function startProxy(target: string, fateOf: (what: string) => Fate | Promise<Fate>): Promise<Proxy> {
  const seen: string[] = [];
  const server: Server = createServer((req, res) => {
    const what = `${req.method} ${req.url}`;
    seen.push(what);
    void Promise.resolve(fateOf(what)).then((fate) => pass(target, req, res, fate));
  });
  await new Promise<void>((ready) => server.listen(0, '127.0.0.1', ready));
  return {
    base: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    seen,
    close: () => {
      server.closeAllConnections();
      return new Promise((done) => server.close(() => done()));
    },
  };
}

function pass(target: string, req: IncomingMessage, res: ServerResponse, fate: Fate): void {
  const onward = request(target + req.url, { method: req.method, headers: req.headers }, (answer) => {
    if (fate === 'lose answer') {
      answer.resume().once('end', () => res.destroy());
      return;
    }
    res.writeHead(answer.statusCode!, answer.headers);
    answer.pipe(res);
  });
  onward.on('error', () => res.destroy());
  res.on('close', () => {
    if (!res.writableEnded) onward.destroy();
  });
  if (fate !== 'cut') {
    req.pipe(onward);
    return;
  }
  let bytes = 0;
  req.on('data', (chunk: Buffer) => {
    bytes += chunk.length;
    onward.write(chunk);
    if (bytes >= CUT_AFTER_BYTES) res.destroy();
  });
}
