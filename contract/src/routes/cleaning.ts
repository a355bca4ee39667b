// Files of older pictures, put aside and brought back.
import * as z from 'zod';
import { cleaningPlanSchema, cleaningRulesSchema, cleaningSchema } from '../cleaning.ts';
import { idSchema } from '../looks.ts';
import { type RouteSpec, project } from './spec.ts';

export const CLEANING_ROUTES = {
  planCleaning: {
    method: 'post',
    path: '/api/projects/{projectId}/cleanings/plan',
    summary: 'What cleaning up by some rules would put aside. Changes nothing.',
    params: project,
    body: cleaningRulesSchema,
    response: cleaningPlanSchema,
  },
  clean: {
    method: 'post',
    path: '/api/projects/{projectId}/cleanings',
    summary: 'Puts files of older pictures aside; after a week they are gone. What is known of the pictures stays.',
    params: project,
    body: cleaningRulesSchema,
    response: cleaningSchema,
  },
  cleanings: {
    method: 'get',
    path: '/api/projects/{projectId}/cleanings',
    summary: 'What was cleaned up, the latest first.',
    params: project,
    response: z.array(cleaningSchema),
  },
  undoCleaning: {
    method: 'post',
    path: '/api/projects/{projectId}/cleanings/{cleaningId}/undo',
    summary: 'Brings files back that were put aside; never over a file.',
    params: project.extend({ cleaningId: idSchema }),
    response: cleaningSchema,
  },
} as const satisfies Record<string, RouteSpec>;
