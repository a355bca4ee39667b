// What people do with the queue, each with what is said when it did not come to it.
import { useQueryClient } from '@tanstack/react-query';
import type { NodeHours, TracePriority } from '@variscen/contract';
import { useMemo } from 'react';
import { call } from '../../api/client.ts';
import { keys } from '../../api/queries.ts';
import { plural } from '../../ui/format.ts';
import { say, sayError } from '../../ui/notify.ts';

export interface QueueDoing {
  hold(held: boolean): Promise<void>;
  retryFailed(): Promise<void>;
  move(traceIds: readonly string[], before: string | null): Promise<void>;
  traces(name: 'pauseTrace' | 'resumeTrace' | 'retryTrace', traceIds: readonly string[]): Promise<void>;
  cancelTraces(traceIds: readonly string[], keep: boolean): Promise<void>;
  prioritize(traceIds: readonly string[], priority: TracePriority): Promise<void>;
  batch(name: 'pauseBatch' | 'resumeBatch', batchId: string): Promise<void>;
  cancelBatch(batchId: string, keep: boolean): Promise<void>;
  prioritizeBatch(batchId: string, priority: TracePriority): Promise<void>;
  setHours(nodeName: string, hours: NodeHours): Promise<void>;
}

export function useQueueActions(): QueueDoing {
  const client = useQueryClient();
  return useMemo(() => {
    const done = async (what: () => Promise<unknown>) => {
      try {
        await what();
      } catch (e) {
        sayError(e);
      } finally {
        await client.invalidateQueries({ queryKey: keys.queue });
      }
    };
    const each = (ids: readonly string[], what: (traceId: string) => Promise<unknown>) =>
      done(async () => {
        for (const id of ids) await what(id);
      });
    return {
      hold: (held) => done(() => call('holdQueue', { body: { held } })),
      retryFailed: () =>
        done(async () => {
          const { traces } = await call('retryFailed', {});
          say(`${plural(traces, 'trace')} ${traces === 1 ? 'waits' : 'wait'} again`);
        }),
      move: (traceIds, before) => done(() => call('moveTraces', { body: { traceIds: [...traceIds], before } })),
      traces: (name, ids) => each(ids, (traceId) => call(name, { params: { traceId } })),
      cancelTraces: (ids, keep) =>
        each(ids, (traceId) => call('cancelTrace', { params: { traceId }, query: { keep: String(keep) } })),
      prioritize: (ids, priority) =>
        each(ids, (traceId) => call('tracePriority', { params: { traceId }, body: { priority } })),
      batch: (name, batchId) => done(() => call(name, { params: { batchId } })),
      cancelBatch: (batchId, keep) =>
        done(() => call('cancelBatch', { params: { batchId }, query: { keep: String(keep) } })),
      prioritizeBatch: (batchId, priority) =>
        done(() => call('batchPriority', { params: { batchId }, body: { priority } })),
      setHours: (name, hours) => done(() => call('nodeHours', { body: { name, hours } })),
    };
  }, [client]);
}
