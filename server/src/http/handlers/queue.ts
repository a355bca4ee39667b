// The queue of traces, for people.
import { AppError, type QUEUE_ROUTES, type TraceState } from '@variscen/contract';
import { Batches, Traces } from '../../db/entities/index.ts';
import { QueueView } from '../../queue/queueView.ts';
import type { Handlers } from '../handler.ts';
import type { Services } from '../services.ts';

const AGAIN: readonly TraceState[] = ['failed', 'undelivered'];

export const queueHandlers = ({ c, reruns }: Services): Handlers<typeof QUEUE_ROUTES> => {
  const view = new QueueView(c.db, c.queue);
  const { actions } = c.queue;
  /** Of one trace: it says why nothing came of it. */
  const one = async (traceId: string, does: Promise<number>, can: string) => {
    if (await does) return {};
    const row = await c.db.getRepository(Traces).findOne({ select: { id: true, state: true }, where: { id: traceId } });
    if (!row) throw new AppError('NOT_FOUND', 'There is no such trace.');
    throw new AppError('WRONG_STATE', `The trace is ${row.state}; ${can}.`);
  };
  const ofBatch = async (batchId: string, does: () => Promise<number>) => {
    if (!(await c.db.getRepository(Batches).existsBy({ id: batchId })))
      throw new AppError('NOT_FOUND', 'There is no such batch.');
    return { traces: await does() };
  };
  const ofSequence = async (sequenceId: string, does: () => Promise<number>) => {
    if (!(await c.db.getRepository(Traces).existsBy({ sequenceId })))
      throw new AppError('NOT_FOUND', 'There is no such sequence.');
    return { traces: await does() };
  };
  return {
    queue: () => view.look(),
    openTraces: ({ query }) => view.open(query.offset, query.limit),
    endedTraces: ({ query }) => view.ended(query),
    holdQueue: async ({ body }) => {
      await c.queue.hold(body.held);
      return {};
    },
    moveTraces: async ({ body }) => {
      await actions.move(body.traceIds, body.sequenceIds, body.before);
      return {};
    },
    retryFailed: async () => ({ traces: await actions.retry({}, AGAIN) }),
    rerunTraces: ({ body }) => reruns.rerun(body.traceIds, body.sequenceIds),
    pauseTrace: ({ params: { traceId } }) =>
      one(traceId, actions.pause({ id: traceId }), 'only one that waits or renders can be paused'),
    resumeTrace: ({ params: { traceId } }) =>
      one(traceId, actions.resume({ id: traceId }), 'only one that is paused can be resumed'),
    tracePriority: ({ params: { traceId }, body }) =>
      one(traceId, actions.setPriority({ id: traceId }, body.priority), 'only one that is to come has a priority'),
    cancelTrace: ({ params: { traceId }, query }) =>
      one(
        traceId,
        actions.cancel({ id: traceId }, query.keep === 'true'),
        'only one that waits, is paused or renders can be cancelled',
      ),
    retryTrace: ({ params: { traceId } }) =>
      one(
        traceId,
        actions.retry({ id: traceId }, [...AGAIN, 'cancelled']),
        'only one that has failed, waits for delivery or was cancelled can be queued again',
      ),
    pauseSequence: ({ params: { sequenceId } }) => ofSequence(sequenceId, () => actions.pause({ sequenceId })),
    resumeSequence: ({ params: { sequenceId } }) => ofSequence(sequenceId, () => actions.resume({ sequenceId })),
    sequencePriority: ({ params: { sequenceId }, body }) =>
      ofSequence(sequenceId, () => actions.setPriority({ sequenceId }, body.priority)),
    retrySequence: ({ params: { sequenceId }, query }) =>
      ofSequence(sequenceId, () => actions.retry({ sequenceId }, [query.state])),
    cancelSequence: ({ params: { sequenceId }, query }) =>
      ofSequence(sequenceId, () => actions.cancel({ sequenceId }, query.keep === 'true')),
    pauseBatch: ({ params: { batchId } }) => ofBatch(batchId, () => actions.pause({ batchId })),
    resumeBatch: ({ params: { batchId } }) => ofBatch(batchId, () => actions.resume({ batchId })),
    batchPriority: ({ params: { batchId }, body }) =>
      ofBatch(batchId, () => actions.setPriority({ batchId }, body.priority)),
    cancelBatch: ({ params: { batchId }, query }) =>
      ofBatch(batchId, () => actions.cancel({ batchId }, query.keep === 'true')),
    tracePreview: async ({ params, res }) => {
      const png = c.queue.running.preview(params.traceId);
      if (!png) throw new AppError('NOT_FOUND', 'There is no picture of this trace yet.');
      res.type('png').set('Cache-Control', 'no-store').send(Buffer.from(png));
    },
  };
};
