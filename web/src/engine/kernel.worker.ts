// A kernel thread in the browser: the same kernel and the same messages as in Node.
import { type Call, type Reply, type Start, serve } from '@variscen/engine/thread';

const port = self as unknown as Worker;
port.addEventListener(
  'message',
  (first: MessageEvent<Start>) => {
    void serve(
      first.data,
      (handle) => port.addEventListener('message', (m: MessageEvent<Call>) => handle(m.data)),
      (reply: Reply) => port.postMessage(reply),
    ).catch((e: unknown) =>
      port.postMessage({ id: 0, error: e instanceof Error ? e.message : String(e) } satisfies Reply),
    );
  },
  { once: true },
);
