// The board, plans and batches.
import type { BOARD_ROUTES } from '@variscen/contract';
import { PROFILES } from '@variscen/core/plan';
import type { Handlers } from '../handler.ts';
import type { Services } from '../services.ts';
import { leftBy } from '../uploads.ts';

export const boardHandlers = ({ boards, plans, profiles }: Services): Handlers<typeof BOARD_ROUTES> => ({
  board: ({ params, query }) => boards.board(params.projectId, query.profileId),
  cellCounts: ({ params }) => boards.counts(params.projectId),
  cellHistory: ({ params }) => boards.history(params.projectId, params.cameraId, params.variantId),
  profiles: async () => ({ own: PROFILES, library: await profiles.library() }),
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
