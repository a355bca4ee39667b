// What render nodes say.
import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import { AppError, type NODES_ROUTES } from '@variscen/contract';
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
    return row && { ...leaseOf(row, c.queue.leaseS), cut: await c.queue.slices.usableCut(row, body.engine) };
  },
  nodeCut: async ({ params, body }) => {
    const { token, engine, samples, tileRows, slices } = body;
    return c.queue.cut(params.traceId, token, { engine, samples, tileRows }, slices);
  },
  nodeClaim: async ({ params, body }) => c.queue.claim(params.traceId, body.name, body.holds),
  nodePutSlice: async ({ params, query, req }) => {
    await c.queue.slices.putFilm(params.sliceId, query.token, req);
    return {};
  },
  nodeSliceDone: async ({ params, body }) => {
    await c.queue.slices.done(params.sliceId, body);
    return {};
  },
  nodeGetSlice: async ({ params, res }) => {
    const path = await c.queue.slices.filmPath(params.sliceId);
    if (!(await stat(path).catch(() => null))) throw new AppError('NOT_FOUND', 'The film of this slice is gone.');
    res.type('application/octet-stream').set('Cache-Control', 'no-store');
    await pipeline(createReadStream(path), res);
  },
  nodeProgress: ({ params, body }) => c.queue.progress(params.traceId, body.token, body),
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
    changes: asChanges(inputs.values),
    profile,
    widthPx,
    heightPx,
    cells: row.cells.map((cell) => ({
      changes: asChanges(cell.inputs.values),
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
