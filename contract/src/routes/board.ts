// The board, plans and batches.
import * as z from 'zod';
import { idSchema } from '../looks.ts';
import {
  batchSchema,
  boardSchema,
  cellCountsSchema,
  planRequestSchema,
  planSchema,
  profileSchema,
  renderSchema,
} from '../render.ts';
import { type RouteSpec, project } from './spec.ts';

export const BOARD_ROUTES = {
  board: {
    method: 'get',
    path: '/api/projects/{projectId}/board',
    summary: 'Every cell with its state and latest render.',
    params: project,
    response: boardSchema,
  },
  cellCounts: {
    method: 'get',
    path: '/api/projects/{projectId}/cells',
    summary: 'How many cells are in each state.',
    params: project,
    response: cellCountsSchema,
  },
  cellHistory: {
    method: 'get',
    path: '/api/projects/{projectId}/cells/{cameraId}/{variantId}',
    summary: 'All renders of a cell, newest first.',
    params: z.object({ projectId: idSchema, cameraId: idSchema, variantId: idSchema }),
    response: z.array(renderSchema),
  },
  profiles: {
    method: 'get',
    path: '/api/profiles',
    summary: 'Profiles to render with.',
    response: z.array(profileSchema),
  },
  plan: {
    method: 'post',
    path: '/api/projects/{projectId}/plan',
    summary: 'What rendering these cells would do: traces, memory, files, errors. Changes nothing.',
    params: project,
    body: planRequestSchema,
    response: planSchema,
  },
  createBatch: {
    method: 'post',
    path: '/api/projects/{projectId}/batches',
    summary: 'Plans and queues, in one transaction. Refused where the plan has errors.',
    params: project,
    body: planRequestSchema,
    response: batchSchema,
  },
} as const satisfies Record<string, RouteSpec>;
