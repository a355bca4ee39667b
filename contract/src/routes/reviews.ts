// Pictures of a project and what people say of them.
import * as z from 'zod';
import { changeSchema, idSchema, valueKeySchema } from '../looks.ts';
import { projectSchema } from '../project.ts';
import { cellRefSchema, differenceSchema, renderSchema } from '../render.ts';
import {
  developAnswerSchema,
  regionSchema,
  notesFileSchema,
  renderedSchema,
  reviewChangeSchema,
  reviewSchema,
  sheetSchema,
} from '../reviews.ts';
import { type RouteSpec, none, project } from './spec.ts';

const region = project.extend({ regionId: idSchema });
const cells = z.array(cellRefSchema).min(1, 'Select at least one cell.').max(10_000);

export const REVIEWS_ROUTES = {
  rendered: {
    method: 'get',
    path: '/api/projects/{projectId}/renders',
    summary: 'Every picture of a project, newest first, of all versions.',
    params: project,
    response: z.array(renderedSchema),
  },
  render: {
    method: 'get',
    path: '/api/renders/{renderId}',
    summary: 'What is known of a picture, and in what its inputs differ from those of the version before.',
    params: z.object({ renderId: idSchema }),
    response: z.object({
      render: renderSchema,
      /** Of the kernel that it was traced with; null in older renders. */
      engine: z.string().nullable(),
      /** null: it is the first. */
      before: z.object({ renderId: idSchema, version: z.int(), differences: z.array(differenceSchema) }).nullable(),
    }),
  },
  reviews: {
    method: 'get',
    path: '/api/projects/{projectId}/reviews',
    summary: 'What was said of pictures of a project.',
    params: project,
    response: z.array(reviewSchema),
  },
  regions: {
    method: 'get',
    path: '/api/projects/{projectId}/regions',
    summary: 'Parts of cameras’ frames that are measured in all of their pictures.',
    params: project,
    response: z.array(regionSchema),
  },
  keepRegion: {
    method: 'put',
    path: '/api/projects/{projectId}/regions/{regionId}',
    summary: 'Keeps a part of a camera’s frame to be measured, or changes it.',
    params: region,
    body: regionSchema.omit({ id: true }),
    response: none,
  },
  dropRegion: {
    method: 'delete',
    path: '/api/projects/{projectId}/regions/{regionId}',
    summary: 'Drops a part of a frame that was kept.',
    params: region,
    response: none,
  },
  planDevelop: {
    method: 'post',
    path: '/api/projects/{projectId}/developable',
    summary: 'Which cells differ from a stored picture in their grade alone. Changes nothing.',
    params: project,
    body: z.object({ cells }),
    response: developAnswerSchema,
  },
  develop: {
    method: 'post',
    path: '/api/projects/{projectId}/develop',
    summary: 'Makes pictures that differ in their grade alone from stored light, as new versions; nothing is rendered.',
    params: project,
    body: z.object({ cells }),
    response: developAnswerSchema,
  },
  gradeCells: {
    method: 'put',
    path: '/api/projects/{projectId}/grades',
    summary: 'Sets and clears values of the grade for some cells alone, as one edit.',
    params: project,
    body: z.object({ cells, set: z.array(changeSchema).max(100), clear: z.array(valueKeySchema).max(100) }),
    response: projectSchema,
  },
  bringNotes: {
    method: 'post',
    path: '/api/projects/{projectId}/reviews/notes',
    summary:
      'Reads notes that were made on the page of a delivery: verdicts are set, notes are added to those that are there.',
    params: project,
    body: notesFileSchema,
    response: z.object({ brought: z.int(), unknown: z.int() }),
  },
  contactSheet: {
    method: 'post',
    path: '/api/projects/{projectId}/contact-sheet',
    summary: 'A contact sheet of pictures, as a PDF of pages or one PNG.',
    params: project,
    body: sheetSchema,
    download: 'application/octet-stream',
  },
  rendersTable: {
    method: 'post',
    path: '/api/projects/{projectId}/renders-table',
    summary: 'What pictures took, a line each, as CSV.',
    params: project,
    body: z.object({ renderIds: z.array(idSchema).min(1).max(10_000) }),
    download: 'text/csv',
  },
  review: {
    method: 'put',
    path: '/api/projects/{projectId}/reviews',
    summary: 'Approves or rejects pictures, notes something of them or marks them; an edit that can be undone.',
    params: project,
    body: z.object({ renderIds: z.array(idSchema).min(1).max(10_000), change: reviewChangeSchema }),
    response: none,
  },
} as const satisfies Record<string, RouteSpec>;
