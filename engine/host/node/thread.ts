// Entry of a kernel thread in Node.
import { parentPort, workerData } from 'node:worker_threads';
import { serve, type Call, type Start } from '../kernelThread.ts';

const port = parentPort!;
await serve(
  workerData as Start,
  (handle) => port.on('message', (m: Call) => handle(m)),
  (reply) => port.postMessage(reply),
);
