// Options that travel: files and the library.
import * as z from 'zod';
import { idSchema, nameSchema } from '../looks.ts';
import {
  byHandSchema,
  libraryEntrySchema,
  looksFileSchema,
  looksMatchSchema,
  looksSourceSchema,
} from '../looksFile.ts';
import { projectSchema } from '../project.ts';
import { type RouteSpec, project, none } from './spec.ts';

export const LIBRARY_ROUTES = {
  packLooks: {
    method: 'get',
    path: '/api/projects/{projectId}/looks',
    summary: 'Options of a project as a file that another project can take.',
    params: project,
    query: z.object({
      options: z.string().regex(/^[0-9a-f-]{36}(,[0-9a-f-]{36}){0,499}$/, 'Up to 500 options, with commas between.'),
    }),
    response: looksFileSchema,
  },
  matchLooks: {
    method: 'post',
    path: '/api/projects/{projectId}/looks/match',
    summary: 'What options from a file or the library find in the scene of a project. Changes nothing.',
    params: project,
    body: z.object({ source: looksSourceSchema, byHand: byHandSchema }),
    response: looksMatchSchema,
  },
  bringLooks: {
    method: 'post',
    path: '/api/projects/{projectId}/looks',
    summary:
      'Makes options of a file or the library in a project, all or some of them (by their place in it), as one edit.',
    params: project,
    body: z.object({
      source: looksSourceSchema,
      byHand: byHandSchema,
      only: z.array(z.int().nonnegative()).max(500).optional(),
      keepUnmatched: z.boolean().default(false),
    }),
    response: z.object({ project: projectSchema, optionIds: z.array(idSchema), left: z.int() }),
  },
  listLibrary: {
    method: 'get',
    path: '/api/library',
    summary: 'Everything in the library, newest first.',
    response: z.array(libraryEntrySchema),
  },
  saveToLibrary: {
    method: 'post',
    path: '/api/library',
    summary: 'Saves options of a project, as they are now, under a name.',
    body: z.object({ projectId: idSchema, optionIds: z.array(idSchema).min(1).max(500), name: nameSchema }),
    response: libraryEntrySchema,
  },
  libraryFile: {
    method: 'get',
    path: '/api/library/{entryId}',
    summary: 'An entry of the library as a file.',
    params: z.object({ entryId: idSchema }),
    response: looksFileSchema,
  },
  renameLibraryEntry: {
    method: 'patch',
    path: '/api/library/{entryId}',
    summary: 'Renames an entry of the library.',
    params: z.object({ entryId: idSchema }),
    body: z.object({ name: nameSchema }),
    response: libraryEntrySchema,
  },
  deleteLibraryEntry: {
    method: 'delete',
    path: '/api/library/{entryId}',
    summary: 'Deletes an entry of the library. Options that were made of it stay.',
    params: z.object({ entryId: idSchema }),
    response: none,
  },
} as const satisfies Record<string, RouteSpec>;
