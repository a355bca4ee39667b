// What render nodes say.
import { randomUUID } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import { AppError, type NODES_ROUTES } from '@variscen/contract';
import { asChanges } from '../../domain/asChanges.ts';
import type { LeasedTrace } from '../../queue/traceQueue.ts';
import type { Handlers } from '../handler.ts';
import type { Services } from '../services.ts';
import { nodeName } from '../security.ts';
import { pictureOf } from '../uploads.ts';

export const nodesHandlers = ({ c }: Services): Handlers<typeof NODES_ROUTES> => ({
  nodeMe: ({ res }) => Promise.resolve({ name: nodeName(res, undefined) ?? 'this machine' }),
  nodeHello: async ({ body, res }) => {
    await c.queue.hello({ ...body, name: nodeName(res, body.name) });
    return {};
  },
  nodeLeave: async ({ body, res }) => {
    await c.queue.leave(nodeName(res, body.name));
    return {};
  },
  nodeGone: async ({ body, res }) => {
    await c.queue.gone(nodeName(res, body.name));
    return {};
  },
  nodeHeld: async ({ body }) => ({ unwanted: await c.queue.unwanted(body.traceIds) }),
  nodeLease: async ({ body, res }) => {
    const name = nodeName(res, body.name);
    const row = await c.queue.lease(name, body.engine, body.usedBytes);
    if (!row) return null;
    const budgetBytes = c.queue.nodes.setBudgetBytes(name);
    return { ...leaseOf(row, c.queue.leaseS), cut: await c.queue.slices.usableCut(row, body.engine), budgetBytes };
  },
  nodeHelp: async ({ body, res }) => {
    const name = nodeName(res, body.name);
    const row = await c.queue.help(name, body.engine);
    const cut = row && (await c.queue.slices.cutOf(row));
    if (!cut) return null;
    // the attempt is another node's: with a token of its own, a helper can end or deliver nothing
    const lease = leaseOf({ ...row, token: randomUUID() }, c.queue.leaseS);
    return { ...lease, cut, budgetBytes: c.queue.nodes.setBudgetBytes(name) };
  },
  nodeHelping: ({ params, body, res }) => c.queue.helping(params.traceId, nodeName(res, body.name), body),
  nodeCut: async ({ params, body }) => {
    const { token, engine, samples, tileRows, slices } = body;
    return c.queue.cut(params.traceId, token, { engine, samples, tileRows }, slices);
  },
  nodeClaim: async ({ params, body, res }) => c.queue.claim(params.traceId, nodeName(res, body.name), body.holds),
  nodePutSlice: async ({ params, query, req }) => {
    await c.queue.slices.putFilm(params.sliceId, query.token, req);
    return {};
  },
  nodeSliceDone: async ({ params, body }) => {
    const by = await c.queue.slices.done(params.sliceId, body);
    if (by !== null) await c.queue.machines.worked(by, 'slice', body);
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
      lighting: cell.lighting ?? 0,
      metadata: {
        'variscen:camera': cell.cameraName,
        'variscen:variant': cell.variantName,
        'variscen:version': String(cell.version),
        'variscen:frame': String(inputs.camera.frame ?? 0),
        'variscen:profile': profile.name,
        'variscen:state': cell.hash,
      },
    })),
  };
}
