// What render nodes say.
import type { NODES_ROUTES } from '@variscen/contract';
import { asChanges } from '../../domain/plans.ts';
import type { LeasedTrace } from '../../queue/traceQueue.ts';
import type { Handlers } from '../handler.ts';
import type { Services } from '../services.ts';
import { pictureOf } from '../uploads.ts';

export const nodesHandlers = ({ c }: Services): Handlers<typeof NODES_ROUTES> => ({
  nodeHello: async ({ body }) => {
    await c.queue.hello(body.name, body.threads, body.restBytes);
    return {};
  },
  nodeGone: async ({ body }) => {
    await c.queue.gone(body.name);
    return {};
  },
  nodeHeld: async ({ body }) => ({ unwanted: await c.queue.unwanted(body.traceIds) }),
  nodeLease: async ({ body }) => {
    const row = await c.queue.lease(body.name);
    return row && leaseOf(row, c.queue.leaseS);
  },
  nodeProgress: async ({ params, body }) => ({
    goOn: await c.queue.progress(params.traceId, body.token, body.fraction, body.samplesDone, body.stage),
  }),
  nodePreview: async ({ params, query, req }) => {
    await c.queue.setPreview(params.traceId, query.token, await pictureOf(req));
    return {};
  },
  nodeFile: async ({ params, query, req }) => {
    await c.queue.putFile(params.traceId, query.token, query.cell, query.kind, req);
    return {};
  },
  nodeComplete: async ({ params, body }) => {
    await c.queue.complete(params.traceId, body);
    return {};
  },
  nodeFail: async ({ params, body }) => {
    await c.queue.fail(params.traceId, body.token, body.message, body.finished);
    return {};
  },
});

function leaseOf(row: LeasedTrace, leaseS: number) {
  const { id, token, inputs, profile, widthPx, heightPx } = row;
  return {
    traceId: id,
    token,
    leaseS,
    sceneHash: inputs.scene,
    camera: inputs.camera,
    changes: asChanges(inputs),
    profile,
    widthPx,
    heightPx,
    cells: row.cells.map((cell) => ({
      changes: asChanges(cell.inputs),
      metadata: {
        'variscen:camera': cell.cameraName,
        'variscen:variant': cell.variantName,
        'variscen:version': String(cell.version),
        'variscen:profile': profile.name,
        'variscen:state': cell.hash,
      },
    })),
  };
}
