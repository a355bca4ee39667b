// What tests of whose turn it is stand on.
import { stubServer } from '../testing.tsx';
import type { ToEngine } from './messages.ts';
import { StillWorker, ownNode } from './stillWorker.ts';

/** A page beside which the queue renders on this machine, until it is said to rest. */
export class BesideTheQueue {
  isRendering = true;
  constructor() {
    StillWorker.told.length = 0;
    localStorage.clear();
    stubServer((what) =>
      what.endsWith('/nodes') ? [{ ...ownNode, state: this.isRendering ? 'rendering' : 'idle' }] : undefined,
    );
  }
  kinds(): ToEngine['kind'][] {
    return StillWorker.told.map((m) => m.kind);
  }
}
