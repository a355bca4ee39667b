// Environment maps that were brought in, small enough for the real-time view. They are read and made smaller in a
// worker: one of 8,192 × 4,096 holds 400 MB.
import type { EnvironmentMap, ImportedSky } from '@variscen/core/environment';
import SkyWorker from './sky.worker.ts?worker';
import type { SkyAnswer, SkyAsked } from './skyMessages.ts';

/** Rows of a map in the view. */
const MAP_HEIGHT = 256;
/** So many are kept. */
const KEPT = 16;

export class SkyMaps {
  private readonly maps = new Map<string, EnvironmentMap | 'loading' | 'lost'>();
  private readonly asked = new Map<number, ImportedSky>();
  private worker: Worker | undefined;
  private last = 0;
  constructor(private readonly tell: { arrived(): void; failed(message: string): void }) {}

  /** Undefined while it is on its way: arrived is called when it is here. */
  get(sky: ImportedSky): EnvironmentMap | undefined {
    const known = this.maps.get(sky.hash);
    if (known === undefined) this.ask(sky);
    if (typeof known !== 'object') return undefined;
    this.maps.delete(sky.hash);
    this.maps.set(sky.hash, known); // the one that was asked for last is dropped last
    return known;
  }
  free(): void {
    this.worker?.terminate();
    this.worker = undefined;
    this.maps.clear();
    this.asked.clear();
  }

  private ask(sky: ImportedSky): void {
    this.maps.set(sky.hash, 'loading');
    this.worker ??= this.open();
    const asked: SkyAsked = { id: ++this.last, sky, maxHeight: MAP_HEIGHT };
    this.asked.set(asked.id, sky);
    this.worker.postMessage(asked);
  }
  private open(): Worker {
    const worker = new SkyWorker();
    worker.onmessage = (m: MessageEvent<SkyAnswer>) => this.heard(m.data);
    worker.onerror = () => {
      for (const id of [...this.asked.keys()]) this.heard({ id, failed: 'could not be read in this browser.' });
    };
    return worker;
  }
  private heard(answer: SkyAnswer): void {
    const sky = this.asked.get(answer.id);
    if (!sky) return;
    this.asked.delete(answer.id);
    if ('failed' in answer) {
      this.maps.set(sky.hash, 'lost');
      this.tell.failed(`The environment map “${sky.name}” ${answer.failed}`);
      return;
    }
    this.maps.set(sky.hash, answer.map);
    for (const hash of this.maps.keys()) if (this.maps.size > KEPT) this.maps.delete(hash);
    this.tell.arrived();
  }
}
