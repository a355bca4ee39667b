// Options that travel: files and the library.
import type { LIBRARY_ROUTES } from '@variscen/contract';
import type { Handlers } from '../handler.ts';
import type { Services } from '../services.ts';

export const libraryHandlers = ({ library }: Services): Handlers<typeof LIBRARY_ROUTES> => ({
  packLooks: ({ params, query }) => library.pack(params.projectId, query.options.split(',')),
  matchLooks: ({ params, body }) => library.match(params.projectId, body.source, body.byHand),
  bringLooks: ({ params, body }) => library.bring(params.projectId, body),
  listLibrary: () => library.list(),
  saveToLibrary: ({ body }) => library.save(body.projectId, body.optionIds, body.name),
  libraryFile: async ({ params }) => (await library.file(params.entryId)).looks,
  renameLibraryEntry: ({ params, body }) => library.rename(params.entryId, body.name),
  deleteLibraryEntry: async ({ params }) => {
    await library.remove(params.entryId);
    return {};
  },
});
