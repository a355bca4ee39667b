// Projects, their selections and their history.
import type { PROJECTS_ROUTES } from '@variscen/contract';
import type { Handlers } from '../handler.ts';
import type { Services } from '../services.ts';

export const projectsHandlers = ({ projects, edits, lately }: Services): Handlers<typeof PROJECTS_ROUTES> => ({
  listProjects: () => projects.list(),
  createProject: ({ body }) => projects.create(body.name),
  getProject: ({ params }) => projects.get(params.projectId),
  updateProject: ({ params, body }) => projects.update(params.projectId, body),
  deleteProject: async ({ params, query }) => ({ recordsPath: await projects.remove(params.projectId, query.records) }),
  lately: ({ params }) => lately.of(params.projectId),
  acceptWarnings: ({ params, body }) => projects.acceptWarnings(params.projectId, body.warnings),
  putSets: ({ params, body }) => projects.putSets(params.projectId, body.sets),
  history: async ({ params }) => {
    await projects.row(params.projectId);
    return edits.history.steps(params.projectId);
  },
  undo: async ({ params }) => ({
    label: await edits.turn(params.projectId, 'undo'),
    project: await projects.get(params.projectId),
  }),
  redo: async ({ params }) => ({
    label: await edits.turn(params.projectId, 'redo'),
    project: await projects.get(params.projectId),
  }),
  goToStep: async ({ params }) => {
    await edits.goTo(params.projectId, params.stepId);
    return projects.get(params.projectId);
  },
});
