// Cameras.
import * as z from 'zod';
import { idSchema, nameSchema } from '../looks.ts';
import {
  cameraHandlingSchema,
  cameraSchema,
  cameraSettingsSchema,
  cameraValuesSchema,
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
    summary: 'Sets the same values of several cameras, as one edit.',
    params: project,
    body: z.object({
      cameraIds: z.array(idSchema).min(1).max(1000),
      settings: cameraValuesSchema.optional(),
      handling: cameraHandlingSchema.partial().optional(),
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
} as const satisfies Record<string, RouteSpec>;
