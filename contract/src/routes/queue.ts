// The queue of traces, for people.
import * as z from 'zod';
import { idSchema } from '../looks.ts';
import { batchSchema } from '../render.ts';
import {
  endedCursorSchema,
  endedTracesSchema,
  queueSchema,
  queueTraceSchema,
  tracePrioritySchema,
  traceStateSchema,
} from '../queue.ts';
import { type RouteSpec, none, trace } from './spec.ts';

const batch = z.object({ batchId: idSchema });
const sequence = z.object({ sequenceId: idSchema });
const touched = z.object({ traces: z.int().nonnegative() });
/** Slices that are done stay for a week, for when it is tried again. */
const cancelQuery = z.object({ keep: z.enum(['true', 'false']).default('false') });

export const QUEUE_ROUTES = {
  queue: {
    method: 'get',
    path: '/api/queue',
    summary: 'What renders, what waits first, what ended last, in all projects; the batches and the render nodes.',
    response: queueSchema,
  },
  openTraces: {
    method: 'get',
    path: '/api/queue/open',
    summary: 'Traces that render, wait or are paused, in their order, a page at a time.',
    query: z.object({
      offset: z.coerce.number().int().nonnegative().default(0),
      limit: z.coerce.number().int().min(1).max(500).default(100),
    }),
    response: z.array(queueTraceSchema),
  },
  endedTraces: {
    method: 'get',
    path: '/api/queue/ended',
    summary: 'Traces that ended, the latest first, a page at a time.',
    query: z.object({
      after: endedCursorSchema.optional(),
      limit: z.coerce.number().int().min(1).max(200).default(50),
      state: traceStateSchema.optional(),
      projectId: idSchema.optional(),
      /** In the name of a camera, a variant or a project. */
      text: z.string().max(200).optional(),
    }),
    response: endedTracesSchema,
  },
  holdQueue: {
    method: 'put',
    path: '/api/queue/held',
    summary: 'Holds the whole queue, or lets it go on. What renders stops, and keeps the slices that are done.',
    body: z.object({ held: z.boolean() }),
    response: none,
  },
  moveTraces: {
    method: 'post',
    path: '/api/queue/move',
    summary: 'Puts traces that wait, and what waits of sequences, before another trace, or last.',
    body: z
      .object({
        traceIds: z.array(idSchema).max(10_000),
        sequenceIds: z.array(idSchema).max(10_000).default([]),
        before: idSchema.nullable(),
      })
      .refine((b) => b.traceIds.length + b.sequenceIds.length > 0, { message: 'Nothing is named that should move.' }),
    response: none,
  },
  retryFailed: {
    method: 'post',
    path: '/api/queue/retry-failed',
    summary: 'Queues all traces again that have failed or wait for delivery.',
    response: touched,
  },
  rerunTraces: {
    method: 'post',
    path: '/api/queue/rerun',
    summary: 'Renders traces that have ended again, from what they were planned with, as one batch.',
    body: z.object({
      traceIds: z.array(idSchema).max(10_000),
      /** Of these, the traces that are done. */
      sequenceIds: z.array(idSchema).max(1000).default([]),
    }),
    response: batchSchema,
  },
  pauseTrace: {
    method: 'post',
    path: '/api/traces/{traceId}/pause',
    summary: 'Pauses a waiting or running trace. It keeps its place, and the slices that are done.',
    params: trace,
    response: none,
  },
  resumeTrace: {
    method: 'post',
    path: '/api/traces/{traceId}/resume',
    summary: 'A paused trace waits again, at its place.',
    params: trace,
    response: none,
  },
  tracePriority: {
    method: 'put',
    path: '/api/traces/{traceId}/priority',
    summary: 'Gives a trace another priority.',
    params: trace,
    body: z.object({ priority: tracePrioritySchema }),
    response: none,
  },
  cancelTrace: {
    method: 'post',
    path: '/api/traces/{traceId}/cancel',
    summary: 'Cancels a waiting or running trace.',
    params: trace,
    query: cancelQuery,
    response: none,
  },
  retryTrace: {
    method: 'post',
    path: '/api/traces/{traceId}/retry',
    summary: 'Queues a failed or cancelled trace again.',
    params: trace,
    response: none,
  },
  pauseSequence: {
    method: 'post',
    path: '/api/sequences/{sequenceId}/pause',
    summary: 'Pauses what is to come of a sequence.',
    params: sequence,
    response: touched,
  },
  resumeSequence: {
    method: 'post',
    path: '/api/sequences/{sequenceId}/resume',
    summary: 'What is paused of a sequence waits again.',
    params: sequence,
    response: touched,
  },
  sequencePriority: {
    method: 'put',
    path: '/api/sequences/{sequenceId}/priority',
    summary: 'Gives what is to come of a sequence another priority.',
    params: sequence,
    body: z.object({ priority: tracePrioritySchema }),
    response: touched,
  },
  retrySequence: {
    method: 'post',
    path: '/api/sequences/{sequenceId}/retry',
    summary: 'Queues the traces of a sequence again that ended in a state.',
    params: sequence,
    query: z.object({ state: z.enum(['failed', 'undelivered', 'cancelled']) }),
    response: touched,
  },
  cancelSequence: {
    method: 'post',
    path: '/api/sequences/{sequenceId}/cancel',
    summary: 'Cancels what is to come of a sequence.',
    params: sequence,
    query: cancelQuery,
    response: touched,
  },
  pauseBatch: {
    method: 'post',
    path: '/api/batches/{batchId}/pause',
    summary: 'Pauses what is to come of a batch.',
    params: batch,
    response: touched,
  },
  resumeBatch: {
    method: 'post',
    path: '/api/batches/{batchId}/resume',
    summary: 'What is paused of a batch waits again.',
    params: batch,
    response: touched,
  },
  batchPriority: {
    method: 'put',
    path: '/api/batches/{batchId}/priority',
    summary: 'Gives what is to come of a batch another priority.',
    params: batch,
    body: z.object({ priority: tracePrioritySchema }),
    response: touched,
  },
  cancelBatch: {
    method: 'post',
    path: '/api/batches/{batchId}/cancel',
    summary: 'Cancels what is to come of a batch.',
    params: batch,
    query: cancelQuery,
    response: touched,
  },
  tracePreview: {
    method: 'get',
    path: '/api/traces/{traceId}/preview',
    summary: 'The picture so far.',
    params: trace,
    download: 'image/png',
  },
} as const satisfies Record<string, RouteSpec>;
