// What cameras need of the scene, and what they leave out.
import * as z from 'zod';
import { cullEvidenceSchema, cullPlanSchema, cullRequestSchema, fitAnswerSchema, fitRequestSchema } from '../cull.ts';
import { idSchema } from '../looks.ts';
import { projectSchema } from '../project.ts';
import { cellRefSchema } from '../render.ts';
import { type RouteSpec, part, project } from './spec.ts';

export const CULL_ROUTES = {
  knownEvidence: {
    method: 'get',
    path: '/api/projects/{projectId}/cull/evidence',
    summary:
      'What was measured of a camera as it is now, in all variants in which it was, put together: of each object the most that any of them says.',
    params: project,
    query: z.object({ cameraId: idSchema }),
    response: z.object({
      evidence: cullEvidenceSchema.nullable(),
      /** Of those that do not leave the camera out. */
      measuredVariantIds: z.array(idSchema),
      unmeasuredVariantIds: z.array(idSchema),
    }),
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
  proveCull: {
    method: 'post',
    path: '/api/projects/{projectId}/cull/proof',
    summary:
      'Traces the whole scene and what a camera leaves of it, in turn and at the same seeds: both pictures, their difference, times and memory, as one file (core/src/cull/proof.ts).',
    params: project,
    body: cellRefSchema,
    download: 'application/octet-stream',
  },
  splitScene: {
    method: 'get',
    path: '/api/projects/{projectId}/cull/scene.glb',
    summary:
      'The scene as one camera needs it in a variant, as GLB: objects that it does not leave out and that some ray met, where it was measured; lights, materials and the camera as the look has them. X-Variscen-Objects says how many of how many.',
    params: project,
    query: cellRefSchema,
    download: 'model/gltf-binary',
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
  fitCull: {
    method: 'post',
    path: '/api/projects/{projectId}/cull/fit',
    summary:
      'What a camera may leave out or simplify so that its pictures fit in the budget, the least first; measures it where it was not. Changes nothing.',
    params: project,
    body: fitRequestSchema,
    response: fitAnswerSchema,
  },
} as const satisfies Record<string, RouteSpec>;
