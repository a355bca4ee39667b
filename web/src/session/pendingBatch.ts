// Pending edits on their way: by destination what is set and what is cleared. What comes before they leave is added to
// them, so that a dragged slider is one request.
import { type Change, keyOf } from '@variscen/core/looks';

export type ValueKey = Pick<Change, 'target' | 'property'>;

interface Waiting {
  clear: Map<string, ValueKey> | 'all';
  readonly set: Map<string, Change>;
}
export interface PendingRequest {
  readonly destination: string;
  readonly set: readonly Change[];
  readonly clear: readonly ValueKey[] | 'all';
}

export class PendingBatch {
  private readonly waiting = new Map<string, Waiting>();

  add(destination: string, set: readonly Change[], clear: readonly ValueKey[] | 'all'): void {
    const w = this.waiting.get(destination) ?? { clear: new Map<string, ValueKey>(), set: new Map<string, Change>() };
    this.waiting.set(destination, w);
    if (clear === 'all') {
      w.clear = 'all';
      w.set.clear();
    } else {
      for (const { target, property } of clear) {
        const key = keyOf(target, property);
        w.set.delete(key);
        if (w.clear !== 'all') w.clear.set(key, { target, property });
      }
    }
    for (const change of set) w.set.set(keyOf(change.target, change.property), change);
  }

  /** The next destination's edits; undefined where all are sent. They stay until they are taken off. */
  next(): PendingRequest | undefined {
    const first = this.waiting.entries().next();
    if (first.done) return undefined;
    const [destination, { set, clear }] = first.value;
    return { destination, set: [...set.values()], clear: clear === 'all' ? clear : [...clear.values()] };
  }
  takeOff(destination: string): void {
    this.waiting.delete(destination);
  }
}
