// The board, plans and batches.
import * as z from 'zod';
import { idSchema, nameSchema } from '../looks.ts';
import {
  batchSchema,
  boardSchema,
  cellCountsSchema,
  cellFrameSchema,
  planRequestSchema,
  planSchema,
  renderSchema,
} from '../render.ts';
import { profileExceptionSchema, profileSchema, profileSettingsSchema } from '../profiles.ts';
import { projectSchema } from '../project.ts';
import { type RouteSpec, none, project } from './spec.ts';

const cell = project.extend({ cameraId: idSchema, variantId: idSchema });
const ofProfile = z.object({ profileId: z.string().min(1).max(60).optional() });
const profileId = z.object({ profileId: z.uuid() });
const named = profileSettingsSchema.extend({ name: nameSchema });

export const BOARD_ROUTES = {
  board: {
    method: 'get',
    path: '/api/projects/{projectId}/board',
    summary: 'Every cell with its state and latest render: of any profile, or of one.',
    params: project,
    query: ofProfile,
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
    params: cell,
    response: z.array(renderSchema),
  },
  cellFrames: {
    method: 'get',
    path: '/api/projects/{projectId}/cells/{cameraId}/{variantId}/frames',
    summary: 'Every picture of a sequence with its state; none for a cell that is one picture.',
    params: cell,
    query: ofProfile,
    response: z.array(cellFrameSchema),
  },
  cellFilm: {
    method: 'get',
    path: '/api/projects/{projectId}/cells/{cameraId}/{variantId}/film',
    summary: 'A preview film of what is rendered of a sequence, as animated WebP.',
    params: cell,
    query: ofProfile,
    download: 'image/webp',
  },
  profiles: {
    method: 'get',
    path: '/api/profiles',
    summary: 'Profiles that come with Variscen and those of the library.',
    response: z.object({
      own: z.array(profileSchema),
      library: z.array(profileSchema),
      /** Folders below which profiles may put files, the application's own first. */
      outputRoots: z.array(z.string()).min(1),
    }),
  },
  putLibraryProfile: {
    method: 'put',
    path: '/api/profiles/{profileId}',
    summary: 'Makes or changes a profile of the library.',
    params: profileId,
    body: named,
    response: none,
  },
  deleteLibraryProfile: {
    method: 'delete',
    path: '/api/profiles/{profileId}',
    summary: 'Deletes a profile of the library. What was planned and rendered with it keeps it.',
    params: profileId,
    response: none,
  },
  putProfile: {
    method: 'put',
    path: '/api/projects/{projectId}/profiles/{profileId}',
    summary: 'Makes or changes a profile of the project.',
    params: project.extend(profileId.shape),
    body: named,
    response: projectSchema,
  },
  deleteProfile: {
    method: 'delete',
    path: '/api/projects/{projectId}/profiles/{profileId}',
    summary: 'Deletes a profile of the project, and the exceptions from it.',
    params: project.extend(profileId.shape),
    response: projectSchema,
  },
  putExceptions: {
    method: 'put',
    path: '/api/projects/{projectId}/exceptions',
    summary: 'Sets what is rendered otherwise for cameras or cells; without settings it is as the profile says again.',
    params: project,
    body: z.object({ exceptions: z.array(profileExceptionSchema).min(1).max(10_000) }),
    response: projectSchema,
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
