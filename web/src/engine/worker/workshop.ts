// What all jobs share: the scene, the engine with its threads, and whose turn it is to use them.
import { type Engine, EngineError, MeshCache } from '@variscen/engine';
import { openEngine } from '../openEngine.ts';
import { threadsFor } from '../wish.ts';
import type { ApartPicture } from './apartLights.ts';
import { SceneStore } from './sceneStore.ts';
import type { Shown } from './shownFilm.ts';
import { Turns } from './turns.ts';

const CACHE_BYTES = 2 ** 28;

interface ApartShown {
  readonly key: string;
  readonly shown: Shown;
  /** Made when it is wanted, while its film is in the engine. */
  readonly picture: () => ApartPicture | undefined;
  /** Where it was made, it is good without the film. */
  readonly keep: () => void;
}
interface OpenEngine {
  readonly engine: Engine;
  readonly threads: number;
}

export class Workshop {
  readonly scenes = new SceneStore();
  readonly turns = new Turns();
  /** Whose job the engine holds. */
  loadedBy: object | undefined;
  /** The last live picture whose lights can be changed, and what it is of but for its lights. */
  apart: ApartShown | undefined;
  private readonly meshCache = new MeshCache(CACHE_BYTES);
  private opened: Promise<OpenEngine> | undefined;

  /** What the engine holds goes. */
  release(): void {
    this.apart?.keep();
    this.loadedBy = undefined;
  }
  /** Only for who holds the turn. */
  engine(): Promise<OpenEngine> {
    return (this.opened ??= openEngine(threadsFor(navigator.hardwareConcurrency), this.meshCache));
  }
  /** After a failure that is the engine's own, the next job opens another; the threads of this one end. */
  afterFailure(e: unknown): void {
    if (e instanceof EngineError && e.code !== 'KERNEL_FAILED') return;
    const { opened } = this;
    this.opened = undefined;
    this.loadedBy = undefined;
    void opened?.then(
      (old) => old.engine.close(),
      () => undefined,
    );
  }
}
