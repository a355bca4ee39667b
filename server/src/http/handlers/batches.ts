// What came of batches, and who is told.
import type { BATCHES_ROUTES } from '@variscen/contract';
import type { Handlers } from '../handler.ts';
import type { Services } from '../services.ts';

export const batchesHandlers = ({ c: { queue } }: Services): Handlers<typeof BATCHES_ROUTES> => ({
  endedBatches: ({ query }) => queue.ends.lately(query.limit),
  batchSummary: ({ params }) => queue.ends.summary(params.batchId),
  webhook: () => Promise.resolve(queue.webhook.state()),
  setWebhook: async ({ body }) => {
    await queue.webhook.set(body);
    return {};
  },
  tryWebhook: () => queue.webhook.attempt(),
});
