// Which window a request comes from and what it had seen by then. Carried beside the call, so that no service needs to
// hand it on.
import { AsyncLocalStorage } from 'node:async_hooks';

export interface Origin {
  /** A name that the window gave itself; null for programs that give none. */
  readonly tab: string | null;
  /**
   * The last row of the project's history that the window knew (not the step: edits may join an earlier one); null
   * where it does not say.
   */
  readonly seen: string | null;
}
const NOBODY: Origin = { tab: null, seen: null };
const storage = new AsyncLocalStorage<Origin>();

export const withOrigin = <T>(origin: Origin, work: () => T): T => storage.run(origin, work);
export const origin = (): Origin => storage.getStore() ?? NOBODY;
