// The data folder.
import type { STORAGE_ROUTES } from '@variscen/contract';
import type { Handlers } from '../handler.ts';
import type { Services } from '../services.ts';
import { leftBy } from '../uploads.ts';

export const storageHandlers = ({ storage, storageUses }: Services): Handlers<typeof STORAGE_ROUTES> => ({
  storage: () => storage.look(),
  storageUses: () => storageUses.look(),
  dropMade: async ({ body }) => ({ bytes: await storageUses.drop(body.what) }),
  verifyStorage: ({ res }) => storage.verify(leftBy(res)),
  removeUnused: () => storage.removeUnused(),
});
