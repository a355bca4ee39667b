// The board, plans and batches.
import { AppError, type BOARD_ROUTES } from '@variscen/contract';
import { PROFILES, slug } from '@variscen/core/plan';
import { framesOfFilm } from '../../domain/films.ts';
import { runTask } from '../../work/run.ts';
import type { Handlers } from '../handler.ts';
import type { Services } from '../services.ts';
import { leftBy } from '../uploads.ts';

export const boardHandlers = ({
  boards,
  c,
  plans,
  profiles,
  projects,
  uploads,
}: Services): Handlers<typeof BOARD_ROUTES> => ({
  board: ({ params, query }) => boards.board(params.projectId, query.profileId),
  cellCounts: ({ params }) => boards.counts(params.projectId),
  cellHistory: ({ params }) => boards.history(params.projectId, params.cameraId, params.variantId),
  cellFrames: ({ params: { projectId, ...cell }, query }) => boards.frames(projectId, cell, query.profileId),
  cellFilm: async ({ params: { projectId, ...cell }, query, res }) => {
    const p = await projects.get(projectId);
    const rendered = await boards.rendered(projectId, cell, query.profileId);
    if (!rendered.length) throw new AppError('NOT_FOUND', 'No frame of this sequence is rendered yet.');
    const frames = await framesOfFilm(rendered, c.output);
    const names = [p.cameras.find((x) => x.id === cell.cameraId), p.variants.find((x) => x.id === cell.variantId)];
    await uploads.sent(
      res,
      { mediaType: 'image/webp', fileName: `${names.map((x) => slug(x?.name ?? '')).join('_')}.webp` },
      async (file, signal) => (await runTask({ kind: 'film', frames, file }, undefined, signal)).bytes,
    );
  },
  profiles: async () => ({ own: PROFILES, library: await profiles.library(), outputRoots: [...c.output.roots] }),
  putLibraryProfile: async ({ params, body }) => {
    await profiles.putInLibrary({ id: params.profileId, ...body });
    return {};
  },
  deleteLibraryProfile: async ({ params }) => {
    await profiles.removeFromLibrary(params.profileId);
    return {};
  },
  putProfile: ({ params, body }) => profiles.put(params.projectId, { id: params.profileId, ...body }),
  deleteProfile: ({ params }) => profiles.remove(params.projectId, params.profileId),
  putExceptions: ({ params, body }) => profiles.putExceptions(params.projectId, body.exceptions),
  plan: ({ params, body, res }) => plans.plan(params.projectId, body, leftBy(res)),
  createBatch: ({ params, body }) => plans.createBatch(params.projectId, body),
});
