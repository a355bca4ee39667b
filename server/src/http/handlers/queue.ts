// The queue of traces, for people.
import { AppError, type QUEUE_ROUTES } from '@variscen/contract';
import { viewOfQueue } from '../../queue/queueView.ts';
import type { Handlers } from '../handler.ts';
import type { Services } from '../services.ts';

export const queueHandlers = ({ c }: Services): Handlers<typeof QUEUE_ROUTES> => ({
  queue: () => viewOfQueue(c.db, c.queue),
  nodes: () => Promise.resolve(c.queue.nodes.view()),
  cancelTrace: async ({ params }) => {
    await c.queue.cancel(params.traceId);
    return {};
  },
  retryTrace: async ({ params }) => {
    await c.queue.retry(params.traceId);
    return {};
  },
  tracePreview: async ({ params, res }) => {
    const png = c.queue.preview(params.traceId);
    if (!png) throw new AppError('NOT_FOUND', 'There is no picture of this trace yet.');
    res.type('png').set('Cache-Control', 'no-store').send(Buffer.from(png));
  },
});
