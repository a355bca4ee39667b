// What people do with the queue, each with what is said when it did not come to it.
import { useQueryClient } from '@tanstack/react-query';
import type { NodeHours, QueueTrace, TracePriority } from '@variscen/contract';
import { useMemo } from 'react';
import { call } from '../../api/client.ts';
import { keys } from '../../api/queries.ts';
import { plural } from '../../ui/format.ts';
import { say, sayError } from '../../ui/notify.ts';

export interface QueueDoing {
  hold(held: boolean): Promise<void>;
  retryFailed(): Promise<void>;
  /** A row of frames that are alike stands for all of them, here and below. */
  move(rows: readonly QueueTrace[], before: string | null): Promise<void>;
  pause(rows: readonly QueueTrace[]): Promise<void>;
  resume(rows: readonly QueueTrace[]): Promise<void>;
  retry(row: QueueTrace): Promise<void>;
  /** From what they were planned with. */
  rerun(row: QueueTrace): Promise<void>;
  cancelTraces(rows: readonly QueueTrace[], keep: boolean): Promise<void>;
  prioritize(rows: readonly QueueTrace[], priority: TracePriority): Promise<void>;
  batch(name: 'pauseBatch' | 'resumeBatch', batchId: string): Promise<void>;
  cancelBatch(batchId: string, keep: boolean): Promise<void>;
  prioritizeBatch(batchId: string, priority: TracePriority): Promise<void>;
  setHours(nodeName: string, hours: NodeHours): Promise<void>;
}

/** Whether a row stands for several frames of a sequence. */
const isMany = (t: QueueTrace): t is QueueTrace & { sequenceId: string } =>
  t.sequenceId !== null && (t.framesAlike?.length ?? 1) > 1;

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
    const each = (
      rows: readonly QueueTrace[],
      one: (params: { traceId: string }) => Promise<unknown>,
      all: (params: { sequenceId: string }) => Promise<unknown>,
    ) =>
      done(async () => {
        for (const t of rows) await (isMany(t) ? all({ sequenceId: t.sequenceId }) : one({ traceId: t.id }));
      });
    return {
      hold: (held) => done(() => call('holdQueue', { body: { held } })),
      retryFailed: () =>
        done(async () => {
          const { traces } = await call('retryFailed', {});
          say(`${plural(traces, 'trace')} ${traces === 1 ? 'waits' : 'wait'} again`);
        }),
      move: (rows, before) =>
        done(() => {
          const traceIds = rows.filter((t) => !isMany(t)).map((t) => t.id);
          const sequenceIds = rows.filter(isMany).map((t) => t.sequenceId);
          return call('moveTraces', { body: { traceIds, sequenceIds, before } });
        }),
      pause: (rows) =>
        each(
          rows,
          (params) => call('pauseTrace', { params }),
          (params) => call('pauseSequence', { params }),
        ),
      resume: (rows) =>
        each(
          rows,
          (params) => call('resumeTrace', { params }),
          (params) => call('resumeSequence', { params }),
        ),
      retry: (t) =>
        each(
          [t],
          (params) => call('retryTrace', { params }),
          (params) => call('retrySequence', { params, query: { state: t.state } }),
        ),
      rerun: (t) =>
        done(async () => {
          const what = isMany(t) ? { traceIds: [], sequenceIds: [t.sequenceId] } : { traceIds: [t.id] };
          const { traces } = await call('rerunTraces', { body: what });
          say(`${plural(traces, 'trace')} queued again, as planned then`);
        }),
      cancelTraces: (rows, keep) => {
        const query = { keep: String(keep) };
        return each(
          rows,
          (params) => call('cancelTrace', { params, query }),
          (params) => call('cancelSequence', { params, query }),
        );
      },
      prioritize: (rows, priority) =>
        each(
          rows,
          (params) => call('tracePriority', { params, body: { priority } }),
          (params) => call('sequencePriority', { params, body: { priority } }),
        ),
      batch: (name, batchId) => done(() => call(name, { params: { batchId } })),
      cancelBatch: (batchId, keep) =>
        done(() => call('cancelBatch', { params: { batchId }, query: { keep: String(keep) } })),
      prioritizeBatch: (batchId, priority) =>
        done(() => call('batchPriority', { params: { batchId }, body: { priority } })),
      setHours: (name, hours) => done(() => call('nodeHours', { body: { name, hours } })),
    };
  }, [client]);
}
