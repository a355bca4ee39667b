// The live render as the page uses it: says what it wants to see, hears of pictures. Everything heavy is in the worker.
import type { CameraSettings } from '@variscen/core/scene';
import { type ResolvedState, gradeOf, propertyOf } from '@variscen/core/looks';
import { pathOf } from '../api/client.ts';
import LiveWorker from './live.worker.ts?worker';
import type { FromLive, Wish } from './messages.ts';

/** More pixels than this are not rendered; the picture is drawn larger. */
const MOST_PIXELS = 500_000, MOST_THREADS = 16;

/** All of a small machine, since a slow picture helps nobody; one is left to the page where there are more. */
const threadsFor = (cores: number): number => Math.min(MOST_THREADS, cores > 2 ? cores - 1 : Math.max(1, cores));

export interface Shown { readonly sceneHash: string; readonly state: ResolvedState; readonly camera: CameraSettings; readonly width: number; readonly height: number }

export class LiveRender {
  private readonly worker = new LiveWorker();
  private id = 0;

  constructor(heard: (m: FromLive) => void) {
    this.worker.onmessage = (m: MessageEvent<FromLive>) => { if (m.data.id === this.id) heard(m.data); };
    this.worker.onerror = (e) => heard({ kind: 'failed', id: this.id, message: e.message || 'The live render could not be loaded.' });
  }

  show({ sceneHash, state, camera, width, height }: Shown): void {
    const k = Math.min(1, Math.sqrt(MOST_PIXELS / Math.max(1, width * height))), widthPx = Math.max(1, Math.round(width * k)), heightPx = Math.max(1, Math.round(height * k));
    const changes = [...state.values.values()].filter((v) => propertyOf(v.property.id)?.facet !== 'grade').map((v) => ({ target: v.target, property: v.property.id, value: v.value }));
    this.send({ id: ++this.id, sceneHash, assetPath: pathOf('asset', { hash: 'HASH' }).replace('HASH', '{hash}'), changes, grade: gradeOf(state), camera: { ...camera, widthPx, heightPx, crop: undefined }, widthPx, heightPx, threads: threadsFor(navigator.hardwareConcurrency) });
  }
  /** What was asked for is of no use any more, though what comes next is not known yet. */
  forget(): void { this.id++; }
  close(): void { this.worker.terminate(); }
  private send(m: Wish): void { this.worker.postMessage(m); }
}
