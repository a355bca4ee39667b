// Asks the worker how far things drop.
import DropWorker from './drop.worker.ts?worker';
import type { DropWish, Dropped } from './drop.worker.ts';

export function heightsBelow(wish: DropWish): Promise<readonly (number | null)[]> {
  const worker = new DropWorker();
  return new Promise<readonly (number | null)[]>((resolve, reject) => {
    worker.onmessage = ({ data }: MessageEvent<Dropped>) => {
      if ('failed' in data) reject(new Error(data.failed));
      else resolve(data.heights);
    };
    worker.onerror = (e) => reject(new Error(e.message || 'What lies below could not be looked at.'));
    worker.postMessage(wish);
  }).finally(() => worker.terminate());
}
