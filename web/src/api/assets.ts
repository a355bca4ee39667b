// Content by its hash. What is asked for at the same time comes in few answers, each part given out as it arrives: a
// scene of 20,000 meshes would take as many requests.
import { pathOf } from '@variscen/contract';

const AT_ONCE = 100;
/** Answers under way at the same time. */
const UNDER_WAY = 4;

interface Wanted {
  readonly hash: string;
  done(bytes: ArrayBuffer): void;
  fail(e: Error): void;
}
const waiting: Wanted[] = [];
let underWay = 0;
let timer: ReturnType<typeof setTimeout> | undefined;

/** @throws Error where the server does not have it */
export function asset(hash: string, signal?: AbortSignal): Promise<ArrayBuffer> {
  return new Promise((done, fail) => {
    if (signal?.aborted) {
      fail(signal.reason as Error);
      return;
    }
    waiting.push({ hash, done, fail });
    timer ??= setTimeout(send, 0);
  });
}

function send(): void {
  timer = undefined;
  while (underWay < UNDER_WAY && waiting.length) {
    const some = waiting.splice(0, AT_ONCE);
    underWay++;
    void load(some).finally(() => {
      underWay--;
      if (waiting.length) timer ??= setTimeout(send, 0);
    });
  }
}
async function load(some: readonly Wanted[]): Promise<void> {
  let given = 0;
  try {
    const r = await fetch(`${pathOf('assets')}?hashes=${some.map((w) => w.hash).join(',')}`);
    if (!r.ok || !r.body) throw new Error('Part of the scene is missing on the server. Import the scene again.');
    const read = reader(r.body.getReader());
    for (; given < some.length; given++) {
      const length = new DataView((await read(4)).buffer).getUint32(0, true);
      some[given]!.done((await read(length)).buffer);
    }
  } catch (e) {
    for (const w of some.slice(given)) w.fail(e instanceof Error ? e : new Error(String(e)));
  }
}

/** Takes a stream apart: gives so many bytes, in an array of their own. */
function reader(stream: ReadableStreamDefaultReader<Uint8Array>): (n: number) => Promise<Uint8Array<ArrayBuffer>> {
  let chunk = new Uint8Array(0);
  let at = 0;
  return async (n) => {
    const out = new Uint8Array(n);
    for (let filled = 0; filled < n;) {
      if (at === chunk.length) {
        const next = await stream.read();
        if (next.done) throw new Error('The server ended its answer too early.');
        chunk = next.value as Uint8Array<ArrayBuffer>;
        at = 0;
      }
      const take = Math.min(n - filled, chunk.length - at);
      out.set(chunk.subarray(at, at + take), filled);
      filled += take;
      at += take;
    }
    return out;
  };
}
