// The data folder.
import type { STORAGE_ROUTES } from '@variscen/contract';
import type { Handlers } from '../handler.ts';
import type { Services } from '../services.ts';

export const storageHandlers = ({ storage }: Services): Handlers<typeof STORAGE_ROUTES> => ({
  storage: () => storage.look(),
  verifyStorage: ({ res }) => {
    const left = new AbortController();
    res.on('close', () => left.abort());
    return storage.verify(left.signal);
  },
  removeUnused: () => storage.removeUnused(),
});
