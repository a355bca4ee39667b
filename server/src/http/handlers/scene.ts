// Scenes and their revisions.
import { AppError, type Project, type SCENE_ROUTES } from '@variscen/contract';
import type { Change } from '@variscen/core/looks';
import { slug } from '@variscen/core/plan';
import { runTask } from '../../work/run.ts';
import type { Handlers } from '../handler.ts';
import type { Services } from '../services.ts';
import { leftBy } from '../uploads.ts';

export const sceneHandlers = ({ projects, revisions, uploads, c }: Services): Handlers<typeof SCENE_ROUTES> => ({
  importScene: async ({ params, query, req, res }) => {
    await projects.row(params.projectId);
    return uploads.received({ req, res }, query.fileName, (file, signal) =>
      revisions.importScene(params.projectId, file, query.fileName, query.metresPerUnit, signal),
    );
  },
  exportScene: async ({ params, query, res }) => {
    const p = await projects.get(params.projectId);
    const options = query.options.split(',').filter(Boolean).map(materialsOptionOf(p));
    if (!p.revision) throw new AppError('NO_SCENE', `“${p.name}” has no scene yet.`);
    const { sceneHash } = p.revision;
    await uploads.sent(
      res,
      { mediaType: 'model/gltf-binary', fileName: `${slug(p.name)}.glb` },
      async (file, signal) => {
        const base = p.base as Change[];
        const task = { kind: 'export', assets: c.assetsFolder, sceneHash, base, options, file } as const;
        return (await runTask(task, undefined, signal)).bytes;
      },
    );
  },
  listRevisions: async ({ params }) => {
    await projects.row(params.projectId);
    return revisions.list(params.projectId);
  },
  matchRevision: ({ params, body, res }) =>
    revisions.preview(params.projectId, params.revisionId, body.byHand, leftBy(res)),
  acceptRevision: async ({ params, body }) => {
    await revisions.accept(params.projectId, params.revisionId, body);
    return projects.get(params.projectId);
  },
  useRevision: async ({ params }) => {
    await revisions.use(params.projectId, params.revisionId);
    return projects.get(params.projectId);
  },
  discardRevision: async ({ params }) => {
    await revisions.discard(params.projectId, params.revisionId);
    return projects.get(params.projectId);
  },
  retarget: async ({ params, body }) => {
    await revisions.retarget(params.projectId, body.from, body.to);
    return projects.get(params.projectId);
  },
});

/** An option of Materials by its id. @throws AppError NOT_FOUND */
const materialsOptionOf =
  (p: Project) =>
  (id: string): { name: string; changes: Change[] } => {
    const option = p.options.find((o) => o.id === id);
    if (option?.facet !== 'materials') {
      throw new AppError('NOT_FOUND', 'One of these is no option of Materials of this project.');
    }
    return { name: option.name, changes: option.changes as Change[] };
  };
