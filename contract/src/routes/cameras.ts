// Cameras.
import * as z from 'zod';
import { idSchema, nameSchema } from '../looks.ts';
import {
  cameraHandlingSchema,
  cameraSchema,
  cameraSettingsSchema,
  cameraValuesSchema,
  guidesSchema,
  projectSchema,
} from '../project.ts';
import { type RouteSpec, project, none, part } from './spec.ts';

export const CAMERAS_ROUTES = {
  createCamera: {
    method: 'post',
    path: '/api/projects/{projectId}/cameras',
    summary: 'Adds a camera, after another where one is named.',
    params: project,
    body: z.object({
      name: nameSchema,
      settings: cameraSettingsSchema,
      handling: cameraHandlingSchema.optional(),
      afterId: idSchema.optional(),
    }),
    response: cameraSchema,
  },
  updateCamera: {
    method: 'patch',
    path: '/api/projects/{projectId}/cameras/{cameraId}',
    summary: 'Changes a camera. A locked one is not moved.',
    params: part('cameraId'),
    body: z.object({
      name: nameSchema.optional(),
      settings: cameraSettingsSchema.optional(),
      handling: cameraHandlingSchema.optional(),
    }),
    response: cameraSchema,
  },
  updateCameras: {
    method: 'patch',
    path: '/api/projects/{projectId}/cameras',
    summary: 'Sets values of several cameras as one edit: the same for all, and some of their own.',
    params: project,
    body: z.object({
      cameraIds: z.array(idSchema).min(1).max(1000),
      settings: cameraValuesSchema.optional(),
      handling: cameraHandlingSchema.partial().optional(),
      /** Guides that are added and taken away; the others stay as each camera has them. */
      guides: z.object({ add: guidesSchema, remove: guidesSchema }).optional(),
      /** What differs by camera. */
      own: z
        .array(z.object({ cameraId: idSchema, settings: cameraValuesSchema }))
        .max(1000)
        .optional(),
    }),
    response: projectSchema,
  },
  orderCameras: {
    method: 'put',
    path: '/api/projects/{projectId}/cameras/order',
    summary: 'Puts the cameras in order.',
    params: project,
    body: z.object({ cameraIds: z.array(idSchema).max(1000) }),
    response: projectSchema,
  },
  deleteCamera: {
    method: 'delete',
    path: '/api/projects/{projectId}/cameras/{cameraId}',
    summary: 'Deletes a camera. Its renders stay on disk.',
    params: part('cameraId'),
    response: none,
  },
  deleteCameras: {
    method: 'post',
    path: '/api/projects/{projectId}/cameras/delete',
    summary: 'Deletes several cameras as one edit. Their renders stay on disk.',
    params: project,
    body: z.object({ cameraIds: z.array(idSchema).min(1).max(1000) }),
    response: projectSchema,
  },
} as const satisfies Record<string, RouteSpec>;
