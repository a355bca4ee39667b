// Files of older pictures, put aside and brought back.
import type { CLEANING_ROUTES } from '@variscen/contract';
import type { Handlers } from '../handler.ts';
import type { Services } from '../services.ts';

export const cleaningHandlers = ({ cleaning }: Services): Handlers<typeof CLEANING_ROUTES> => ({
  planCleaning: ({ params, body }) => cleaning.plan(params.projectId, body),
  clean: ({ params, body }) => cleaning.clean(params.projectId, body),
  cleanings: ({ params }) => cleaning.list(params.projectId),
  undoCleaning: ({ params }) => cleaning.undo(params.projectId, params.cleaningId),
});
