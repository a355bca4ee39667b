import { type Call, instantiate } from './kernelThread.ts';
import type { SpawnThread } from './pool.ts';

/**
 * A “thread” that is the caller's own: for places where memory cannot be shared. Calls are carried out one by one,
 * after what else waits to be heard.
 */
export const spawnInline: SpawnThread = (start, events) => {
  const kernel = instantiate(start);
  kernel.then(
    () => events.reply({ id: 0, value: undefined }),
    (e: unknown) => events.died(e instanceof Error ? e.message : String(e)),
  );
  return {
    post: ({ id, fn, args }: Call) =>
      void kernel.then((k) =>
        setTimeout(() => {
          try {
            const value = (k[fn] as (...a: readonly number[]) => number | undefined)(...args);
            events.reply({ id, value: value === undefined ? undefined : value >>> 0 });
          } catch (e) {
            events.reply({ id, error: e instanceof Error ? e.message : String(e) });
          }
        }),
      ),
    terminate: () => undefined,
  };
};
