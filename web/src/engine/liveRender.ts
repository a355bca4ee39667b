// The live render as the page uses it: says what it wants to see, hears of pictures. Everything heavy is in the worker.
import LiveWorker from './live.worker.ts?worker';
import type { FromLive } from './messages.ts';
import { type Shown, wishOf } from './wish.ts';

export class LiveRender {
  private readonly worker = new LiveWorker();
  private id = 0;

  constructor(heard: (m: FromLive) => void) {
    this.worker.onmessage = (m: MessageEvent<FromLive>) => {
      if (m.data.id === this.id) heard(m.data);
    };
    this.worker.onerror = (e) =>
      heard({ kind: 'failed', id: this.id, message: e.message || 'The live render could not be loaded.' });
  }

  show(shown: Shown): void {
    this.worker.postMessage(wishOf(shown, ++this.id, navigator.hardwareConcurrency));
  }
  /** What was asked for is of no use any more, though what comes next is not known yet. */
  forget(): void {
    this.id++;
  }
  close(): void {
    this.worker.terminate();
  }
}
