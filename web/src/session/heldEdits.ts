// What a hand has changed since it took hold: of each value only the last counts.
import type { Change } from '@variscen/core/looks';
import { PendingBatch, type PendingRequest, type ValueKey } from './pendingBatch.ts';
import type { CameraChange, OneCameraChange } from './shown.ts';

interface CamerasChanged {
  readonly ids: readonly string[];
  readonly change: CameraChange;
}
interface CameraChanged {
  readonly id: string;
  readonly change: OneCameraChange;
}

export class HeldEdits {
  private readonly batch = new PendingBatch();
  private readonly ofMany = new Map<string, CamerasChanged>();
  private readonly ofOne = new Map<string, CameraChanged>();

  pending(destination: string, set: readonly Change[], clear: readonly ValueKey[] | 'all'): void {
    this.batch.add(destination, set, clear);
  }
  cameras(ids: readonly string[], change: CameraChange): void {
    const key = ids.join();
    this.ofMany.set(key, { ids, change: joined(this.ofMany.get(key)?.change, change) });
  }
  oneCamera(id: string, change: OneCameraChange): void {
    this.ofOne.set(id, { id, change: { ...this.ofOne.get(id)?.change, ...change } });
  }

  *pendingRequests(): Iterable<PendingRequest> {
    for (let next = this.batch.next(); next; next = this.batch.next()) {
      this.batch.takeOff(next.destination);
      yield next;
    }
  }
  cameraChanges(): Iterable<CamerasChanged> {
    return this.ofMany.values();
  }
  oneCameraChanges(): Iterable<CameraChanged> {
    return this.ofOne.values();
  }
}

/** Guides are switched, not dragged: they are not among what is joined. */
function joined(before: CameraChange | undefined, change: CameraChange): CameraChange {
  if (!before) return change;
  const own = new Map(before.own?.map((x) => [x.cameraId, x]));
  for (const x of change.own ?? [])
    own.set(x.cameraId, { ...x, settings: { ...own.get(x.cameraId)?.settings, ...x.settings } });
  return {
    ...before,
    ...change,
    ...((before.settings ?? change.settings) && { settings: { ...before.settings, ...change.settings } }),
    ...((before.handling ?? change.handling) && { handling: { ...before.handling, ...change.handling } }),
    ...(own.size > 0 && { own: [...own.values()] }),
  };
}
