// What came of batches, and who is told.
import * as z from 'zod';
import { batchSummarySchema, webhookSchema, webhookStateSchema } from '../batches.ts';
import { idSchema } from '../looks.ts';
import { type RouteSpec, none } from './spec.ts';

export const BATCHES_ROUTES = {
  endedBatches: {
    method: 'get',
    path: '/api/batches/ended',
    summary: 'What came of the batches that ended last, the latest first.',
    query: z.object({ limit: z.coerce.number().int().min(1).max(50).default(5) }),
    response: z.array(batchSummarySchema),
  },
  batchSummary: {
    method: 'get',
    path: '/api/batches/{batchId}/summary',
    summary: 'What came of a batch so far.',
    params: z.object({ batchId: idSchema }),
    response: batchSummarySchema,
  },
  webhook: {
    method: 'get',
    path: '/api/webhook',
    summary: 'Who is told when a batch ends.',
    response: webhookStateSchema,
  },
  setWebhook: {
    method: 'put',
    path: '/api/webhook',
    summary: 'Sets where the summary of a batch is posted when it ends. A secret that is left out stays as it is.',
    body: webhookSchema.partial({ secret: true }),
    response: none,
  },
  tryWebhook: {
    method: 'post',
    path: '/api/webhook/try',
    summary: 'Posts a word to the address now.',
    response: webhookStateSchema,
  },
} as const satisfies Record<string, RouteSpec>;
