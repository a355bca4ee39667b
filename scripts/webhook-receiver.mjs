#!/usr/bin/env node
// Stands in for whatever takes the word of an ended batch: prints what is posted, and says whether its signature holds.
//   node scripts/webhook-receiver.mjs [--port 4470] [--secret SECRET] [--status 200]
import { createHmac, timingSafeEqual } from 'node:crypto';
import { createServer } from 'node:http';
import { parseArgs } from 'node:util';

const MOST_BYTES = 10_000_000;
const { values } = parseArgs({
  options: {
    port: { type: 'string', default: '4470' },
    secret: { type: 'string' },
    status: { type: 'string', default: '200' },
  },
});

function signatureOf(request, body) {
  const said = request.headers['x-variscen-signature'];
  if (!values.secret) return said ? 'signed, and no secret to compare with' : 'not signed';
  const right = Buffer.from(`sha256=${createHmac('sha256', values.secret).update(body).digest('hex')}`);
  const given = Buffer.from(said ?? '');
  return given.length === right.length && timingSafeEqual(given, right) ? 'signed rightly' : 'NOT SIGNED RIGHTLY';
}

const server = createServer((request, response) => {
  const parts = [];
  let bytes = 0;
  request.on('data', (part) => {
    bytes += part.length;
    if (bytes > MOST_BYTES) request.destroy();
    else parts.push(part);
  });
  request.on('end', () => {
    const body = Buffer.concat(parts);
    console.log(`${new Date().toISOString()} ${request.method} ${request.url} (${signatureOf(request, body)})`);
    console.log(body.toString());
    response.writeHead(Number(values.status)).end();
  });
});
server.listen(Number(values.port), '127.0.0.1', () => {
  console.log(`Takes words at http://127.0.0.1:${server.address().port}/`);
});
