// Content by its hash. What is asked for at the same time comes in few answers: a scene of 20,000 meshes would take as many requests.
import { pathOf } from './paths.ts';

const AT_ONCE = 100;
/** Answers under way at the same time. */
const UNDER_WAY = 4;

interface Wanted { readonly hash: string; done(bytes: ArrayBuffer): void; fail(e: Error): void }
const waiting: Wanted[] = [];
let underWay = 0, timer: ReturnType<typeof setTimeout> | undefined;

/** @throws Error where the server does not have it */
export function asset(hash: string, signal?: AbortSignal): Promise<ArrayBuffer> {
  return new Promise((done, fail) => {
    if (signal?.aborted) { fail(signal.reason as Error); return; }
    waiting.push({ hash, done, fail });
    timer ??= setTimeout(send, 0);
  });
}

function send(): void {
  timer = undefined;
  while (underWay < UNDER_WAY && waiting.length) {
    const some = waiting.splice(0, AT_ONCE);
    underWay++;
    void load(some).finally(() => { underWay--; if (waiting.length) timer ??= setTimeout(send, 0); });
  }
}
async function load(some: readonly Wanted[]): Promise<void> {
  try {
    const r = await fetch(`${pathOf('assets')}?hashes=${some.map((w) => w.hash).join(',')}`);
    if (!r.ok) throw new Error('Part of the scene is missing on the server. Bring the scene in again.');
    const bytes = await r.arrayBuffer(), view = new DataView(bytes);
    let at = 0;
    for (const w of some) { const length = view.getUint32(at, true); w.done(bytes.slice(at + 4, at + 4 + length)); at += 4 + length; }
  } catch (e) {
    for (const w of some) w.fail(e instanceof Error ? e : new Error(String(e)));
  }
}
