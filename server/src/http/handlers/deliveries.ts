// Deliveries of a project.
import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import type { DELIVERIES_ROUTES } from '@variscen/contract';
import type { Handlers } from '../handler.ts';
import type { Services } from '../services.ts';

export const deliveriesHandlers = ({ deliveries }: Services): Handlers<typeof DELIVERIES_ROUTES> => ({
  deliveries: ({ params }) => deliveries.list(params.projectId),
  planDelivery: ({ params, body }) => deliveries.plan(params.projectId, body),
  deliver: ({ params, body }) => deliveries.deliver(params.projectId, body),
  stopDelivery: async ({ params }) => {
    await deliveries.stop(params.projectId, params.deliveryId);
    return {};
  },
  deliveryZip: async ({ params, res }) => {
    const { path, name } = await deliveries.zip(params.projectId, params.deliveryId);
    res.attachment(name).type('application/zip');
    res.set({ 'Content-Length': String((await stat(path)).size), 'Cache-Control': 'no-store' });
    await pipeline(createReadStream(path), res);
  },
});
