// Projects, their selections and their history.
import * as z from 'zod';
import { latelySchema } from '../lately.ts';
import { idSchema, nameSchema } from '../looks.ts';
import { historyStepSchema, projectSchema, projectSummarySchema, selectionSetSchema } from '../project.ts';
import { type RouteSpec, project } from './spec.ts';

export const PROJECTS_ROUTES = {
  listProjects: {
    method: 'get',
    path: '/api/projects',
    summary: 'All projects.',
    response: z.array(projectSummarySchema),
  },
  createProject: {
    method: 'post',
    path: '/api/projects',
    summary: 'Makes an empty project.',
    body: z.object({ name: nameSchema }),
    response: projectSchema,
  },
  getProject: {
    method: 'get',
    path: '/api/projects/{projectId}',
    summary: 'A project with its cameras, looks and pending edits.',
    params: project,
    response: projectSchema,
  },
  updateProject: {
    method: 'patch',
    path: '/api/projects/{projectId}',
    summary: 'Renames a project, changes the templates of its files and variants, or when its pictures are outdated.',
    params: project,
    body: z.object({
      name: nameSchema.optional(),
      nameTemplate: z.string().optional(),
      variantTemplate: z.string().optional(),
      staysUnmet: z.boolean().optional(),
    }),
    response: projectSchema,
  },
  deleteProject: {
    method: 'delete',
    path: '/api/projects/{projectId}',
    summary:
      'Deletes a project. Rendered files stay on disk; the records of its renders are kept as a file beside them, or dropped.',
    params: project,
    query: z.object({ records: z.enum(['keep', 'drop']).default('keep') }),
    response: z.object({
      /** Of the records in the output folder; null: none were kept. */
      recordsPath: z.string().nullable(),
    }),
  },
  lately: {
    method: 'get',
    path: '/api/projects/{projectId}/lately',
    summary: 'What was edited, rendered, delivered and cleaned up lately, the latest first.',
    params: project,
    response: z.array(latelySchema),
  },
  acceptWarnings: {
    method: 'put',
    path: '/api/projects/{projectId}/accepted-warnings',
    summary: 'Sets which warnings of plans are accepted, by their text.',
    params: project,
    body: z.object({ warnings: z.array(z.string().min(1).max(2000)).max(1000) }),
    response: projectSchema,
  },
  putSets: {
    method: 'put',
    path: '/api/projects/{projectId}/sets',
    summary: 'Replaces the named selections.',
    params: project,
    body: z.object({ sets: z.array(selectionSetSchema).max(500) }),
    response: projectSchema,
  },
  history: {
    method: 'get',
    path: '/api/projects/{projectId}/history',
    summary: 'Edits that can be taken back or done again, newest first.',
    params: project,
    response: z.array(historyStepSchema),
  },
  undo: {
    method: 'post',
    path: '/api/projects/{projectId}/undo',
    summary: 'Takes the last edit back.',
    params: project,
    response: z.object({ label: z.string(), project: projectSchema }),
  },
  redo: {
    method: 'post',
    path: '/api/projects/{projectId}/redo',
    summary: 'Does the last edit again that was taken back.',
    params: project,
    response: z.object({ label: z.string(), project: projectSchema }),
  },
  goToStep: {
    method: 'post',
    path: '/api/projects/{projectId}/history/{stepId}',
    summary: 'Takes back or does again until this step is the last that is done; 0 takes all back.',
    params: z.object({ projectId: idSchema, stepId: z.string().regex(/^\d{1,18}$/) }),
    response: projectSchema,
  },
} as const satisfies Record<string, RouteSpec>;
