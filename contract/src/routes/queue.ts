// The queue of traces, for people.
import * as z from 'zod';
import { nodeSchema, queueSchema } from '../render.ts';
import { type RouteSpec, none, trace } from './spec.ts';

export const QUEUE_ROUTES = {
  queue: {
    method: 'get',
    path: '/api/queue',
    summary: 'Traces of all projects, and the render nodes.',
    response: queueSchema,
  },
  nodes: {
    method: 'get',
    path: '/api/nodes',
    summary: 'The render nodes.',
    response: z.array(nodeSchema),
  },
  cancelTrace: {
    method: 'post',
    path: '/api/traces/{traceId}/cancel',
    summary: 'Cancels a waiting or running trace.',
    params: trace,
    response: none,
  },
  retryTrace: {
    method: 'post',
    path: '/api/traces/{traceId}/retry',
    summary: 'Queues a failed or cancelled trace again.',
    params: trace,
    response: none,
  },
  tracePreview: {
    method: 'get',
    path: '/api/traces/{traceId}/preview',
    summary: 'The picture so far.',
    params: trace,
    download: 'image/png',
  },
} as const satisfies Record<string, RouteSpec>;
