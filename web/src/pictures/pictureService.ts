// The threads that make pictures ready, and what they have made. What is asked for last is made first: it is what
// somebody looks at now.
import type { FromPictures, PictureAnswers, PictureAsk, ToPictures } from './messages.ts';
import PicturesWorker from './pictures.worker.ts?worker';

const THREADS = 2;
/** More of them given to a thread could not be taken back when nobody looks at them any more. */
const AT_ONCE = 2;
const MOST_BITMAPS = 480;

interface Waiting {
  readonly ask: PictureAsk;
  readonly resolve: (answer: never) => void;
  readonly reject: (e: Error) => void;
  readonly signal: AbortSignal | undefined;
}
interface Thread {
  readonly worker: Worker;
  readonly under: Map<number, Waiting>;
}

export class PictureService {
  private readonly threads: Thread[] = [];
  private readonly waiting: Waiting[] = [];
  private next = 1;
  /** By what they show. */
  private readonly bitmaps = new Map<string, ImageBitmap>();

  ask<A extends PictureAsk>(ask: A, signal?: AbortSignal): Promise<PictureAnswers[A['kind']]> {
    return new Promise((resolve, reject) => {
      this.waiting.push({ ask, resolve, reject, signal });
      this.hand();
    });
  }

  /** Starts what will be needed in a moment. */
  warm(): void {
    while (this.threads.length < THREADS) this.threads.push(this.start());
  }

  bitmap(key: string): ImageBitmap | undefined {
    const found = this.bitmaps.get(key);
    if (!found) return undefined;
    this.bitmaps.delete(key);
    this.bitmaps.set(key, found);
    return found;
  }
  keep(key: string, bitmap: ImageBitmap): void {
    this.bitmaps.set(key, bitmap);
    for (const [oldest, old] of this.bitmaps) {
      if (this.bitmaps.size <= MOST_BITMAPS) return;
      this.bitmaps.delete(oldest);
      old.close();
    }
  }

  private hand(): void {
    while (this.threads.length < THREADS && this.waiting.length > this.threads.length * AT_ONCE)
      this.threads.push(this.start());
    for (const thread of this.threads)
      while (thread.under.size < AT_ONCE) {
        const wanted = this.waiting.pop();
        if (!wanted) return;
        if (wanted.signal?.aborted) {
          wanted.reject(wanted.signal.reason as Error);
          continue;
        }
        const id = this.next++;
        thread.under.set(id, wanted);
        thread.worker.postMessage({ id, ask: wanted.ask } satisfies ToPictures);
      }
  }
  private start(): Thread {
    const worker = new PicturesWorker();
    const thread: Thread = { worker, under: new Map() };
    worker.onmessage = ({ data }: MessageEvent<FromPictures>) => {
      const asked = thread.under.get(data.id);
      thread.under.delete(data.id);
      if ('answer' in data) asked?.resolve(data.answer as never);
      else asked?.reject(new Error(data.failed));
      this.hand();
    };
    worker.onerror = () => {
      this.threads.splice(this.threads.indexOf(thread), 1);
      for (const asked of thread.under.values())
        asked.reject(new Error('What shows pictures has ended. Open it again.'));
      worker.terminate();
      this.hand();
    };
    return thread;
  }
}

/** One for the window: what one screen has made another need not make again. */
export const pictures = new PictureService();
