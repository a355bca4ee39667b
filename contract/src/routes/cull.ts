// What cameras need of the scene, and what they leave out.
import * as z from 'zod';
import { cullEvidenceSchema, cullPlanSchema, cullRequestSchema } from '../cull.ts';
import { projectSchema } from '../project.ts';
import { cellRefSchema } from '../render.ts';
import { type RouteSpec, part, project } from './spec.ts';

export const CULL_ROUTES = {
  knownEvidence: {
    method: 'get',
    path: '/api/projects/{projectId}/cull/evidence',
    summary: 'What was measured of a cell as it is now; null before it was.',
    params: project,
    query: cellRefSchema,
    response: z.object({ evidence: cullEvidenceSchema.nullable() }),
  },
  measureEvidence: {
    method: 'post',
    path: '/api/projects/{projectId}/cull/evidence',
    summary:
      'Traces a small picture of the whole scene and counts what its rays met. Answers at once where that is known, and with its progress as events otherwise.',
    params: project,
    body: cellRefSchema,
    response: cullEvidenceSchema,
  },
  cullPlan: {
    method: 'get',
    path: '/api/projects/{projectId}/cameras/{cameraId}/cull',
    summary: 'What a camera leaves out by name; null where nothing is named.',
    params: part('cameraId'),
    response: z.object({ plan: cullPlanSchema.nullable() }),
  },
  setCullPlan: {
    method: 'put',
    path: '/api/projects/{projectId}/cull',
    summary: 'Names what cameras leave out, as one edit: by hand, and by what was measured of them.',
    params: project,
    body: cullRequestSchema,
    response: projectSchema,
  },
} as const satisfies Record<string, RouteSpec>;
