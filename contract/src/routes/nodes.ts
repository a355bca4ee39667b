// What render nodes say.
import * as z from 'zod';
import { idSchema, nameSchema } from '../looks.ts';
import { renderFileKindSchema } from '../render.ts';
import {
  cutSchema,
  leaseSchema,
  sliceResultSchema,
  sliceRowsSchema,
  traceResultSchema,
  traceStageSchema,
} from '../queue.ts';
import { type RouteSpec, none, trace } from './spec.ts';

const slice = z.object({ sliceId: idSchema });
/** Which engine a node renders with: films of different ones are never put together. */
const engineSchema = z.string().min(1).max(100);

/** Whether to go on, and with how many threads; null: with all. */
const goOnSchema = z.object({ goOn: z.boolean(), threads: z.int().nonnegative().nullable() });

export const NODES_ROUTES = {
  nodeMe: {
    method: 'get',
    path: '/api/node/me',
    summary: 'The machine that the token was made for.',
    node: true,
    response: z.object({ name: nameSchema }),
  },
  nodeHello: {
    method: 'post',
    path: '/api/node/hello',
    summary: 'A node says that it is there.',
    node: true,
    body: z.object({
      name: nameSchema,
      threads: z.int().min(1).max(1024),
      /** What its process takes with nothing to do. */
      restBytes: z.int().nonnegative(),
      /** Which engine it renders with: one of another build is refused. */
      engine: engineSchema,
      /** What it may take for a trace. */
      budgetBytes: z.int().positive(),
      /** Which process it is: two with one name would take each other's work away. */
      instance: idSchema,
    }),
    response: none,
  },
  nodeLeave: {
    method: 'post',
    path: '/api/node/leave',
    summary: 'A node leaves: what it was rendering is queued again at once, and nothing counts against it.',
    node: true,
    body: z.object({ name: nameSchema }),
    response: none,
  },
  nodeGone: {
    method: 'post',
    path: '/api/node/gone',
    summary: 'A node is gone: what it was rendering is queued again at once.',
    node: true,
    body: z.object({ name: nameSchema }),
    response: none,
  },
  nodeHeld: {
    method: 'post',
    path: '/api/node/held',
    summary: 'Of the finished traces that a node holds, those that nobody wants any more.',
    node: true,
    body: z.object({ traceIds: z.array(idSchema).max(10_000) }),
    response: z.object({ unwanted: z.array(idSchema) }),
  },
  nodeLease: {
    method: 'post',
    path: '/api/node/lease',
    summary: 'The next trace, or null.',
    node: true,
    body: z.object({ name: nameSchema, engine: engineSchema, usedBytes: z.int().nonnegative().optional() }),
    response: leaseSchema.nullable(),
  },
  nodeHelp: {
    method: 'post',
    path: '/api/node/help',
    summary: 'A trace that another node renders and that has slices left for this one, or null.',
    node: true,
    body: z.object({ name: nameSchema, engine: engineSchema }),
    response: leaseSchema.nullable(),
  },
  nodeHelping: {
    method: 'post',
    path: '/api/node/traces/{traceId}/helping',
    summary: "Renews what a node has claimed of another one's trace; answers whether to go on.",
    node: true,
    params: trace,
    body: z.object({
      name: nameSchema,
      threads: z.int().min(1).max(1024).optional(),
      usedBytes: z.int().nonnegative().optional(),
    }),
    response: goOnSchema,
  },
  nodeProgress: {
    method: 'post',
    path: '/api/node/traces/{traceId}/progress',
    summary: 'Renews the lease; answers whether to go on.',
    node: true,
    params: trace,
    body: z.object({
      token: idSchema,
      fraction: z.number().min(0).max(1),
      samplesDone: z.int().nonnegative(),
      stage: traceStageSchema.default('tracing'),
      noise: z.number().nonnegative().nullable().default(null),
      /** That the node has. */
      threads: z.int().min(1).max(1024).optional(),
      usedBytes: z.int().nonnegative().optional(),
    }),
    response: goOnSchema,
  },
  nodeCut: {
    method: 'post',
    path: '/api/node/traces/{traceId}/cut',
    summary: 'Cuts a trace into slices. Where it is cut already, that stays and is the answer.',
    node: true,
    params: trace,
    body: z.object({
      token: idSchema,
      engine: engineSchema,
      samples: z.int().positive(),
      tileRows: z.int().positive(),
      slices: z.array(sliceRowsSchema).min(1).max(65_536),
    }),
    response: cutSchema,
  },
  nodeClaim: {
    method: 'post',
    path: '/api/node/traces/{traceId}/claim',
    summary: 'The next slice that nobody renders, for this node, and how it stands with all.',
    node: true,
    params: trace,
    body: z.object({
      name: nameSchema,
      /** Slices whose film this node has: one that it was given before, without hearing of it, is given to it again. */
      holds: z.array(idSchema).max(65_536),
    }),
    response: z.object({
      claimed: sliceRowsSchema.extend({ id: idSchema, token: idSchema }).nullable(),
      cut: cutSchema,
    }),
  },
  nodePutSlice: {
    method: 'put',
    path: '/api/node/slices/{sliceId}/film',
    summary: 'The film of a slice, as it lies in the engine. It counts when the slice is said to be done.',
    node: true,
    params: slice,
    query: z.object({ token: idSchema }),
    upload: 'application/octet-stream',
    response: none,
  },
  nodeSliceDone: {
    method: 'post',
    path: '/api/node/slices/{sliceId}/done',
    summary: 'The film of a slice is there. Said again by the same attempt, it changes nothing.',
    node: true,
    params: slice,
    body: sliceResultSchema,
    response: none,
  },
  nodeGetSlice: {
    method: 'get',
    path: '/api/node/slices/{sliceId}/film',
    summary: 'The film of a slice that is done.',
    node: true,
    params: slice,
    download: 'application/octet-stream',
  },
  nodePreview: {
    method: 'put',
    path: '/api/node/traces/{traceId}/preview',
    summary: 'The picture so far.',
    node: true,
    params: trace,
    query: z.object({ token: idSchema }),
    upload: 'image/png',
    response: none,
  },
  nodeFile: {
    method: 'put',
    path: '/api/node/traces/{traceId}/files',
    summary: 'One finished file, put aside until the trace is complete.',
    node: true,
    params: trace,
    query: z.object({ token: idSchema, cell: z.coerce.number().int().nonnegative(), kind: renderFileKindSchema }),
    upload: 'application/octet-stream',
    response: none,
  },
  nodeComplete: {
    method: 'post',
    path: '/api/node/traces/{traceId}/complete',
    summary: 'All files are there: they become renders. Said again, it changes nothing.',
    node: true,
    params: trace,
    body: traceResultSchema,
    response: none,
  },
  nodeFail: {
    method: 'post',
    path: '/api/node/traces/{traceId}/fail',
    summary: 'The trace cannot be rendered, or is finished and its files cannot be stored.',
    node: true,
    params: trace,
    body: z.object({ token: idSchema, message: z.string().max(4000), finished: z.boolean().default(false) }),
    response: none,
  },
} as const satisfies Record<string, RouteSpec>;
