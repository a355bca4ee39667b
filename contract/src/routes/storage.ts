// What lies in the data folder.
import * as z from 'zod';
import { hashSchema } from '../looks.ts';
import type { RouteSpec } from './spec.ts';

const count = z.number().int().nonnegative();
export const storageSchema = z
  .object({
    /** Scenes, maps, images, by content. */
    files: count,
    bytes: count,
    /** Of them those that nothing refers to any more, and that are as old as they have to be to be removed. */
    unusedFiles: count,
    unusedBytes: count,
    keptDays: count,
    freeBytes: count,
  })
  .meta({ id: 'Storage' });
export const notSoundSchema = z
  .object({
    hash: hashSchema,
    fault: z.enum(['gone', 'damaged']),
    /** What it is, and what refers to it. */
    what: z.string(),
    usedBy: z.array(z.string()),
  })
  .meta({ id: 'NotSound' });

export const STORAGE_ROUTES = {
  storage: {
    method: 'get',
    path: '/api/storage',
    summary: 'How much lies in the data folder, and how much of it nothing refers to.',
    response: storageSchema,
  },
  verifyStorage: {
    method: 'post',
    path: '/api/storage/verify',
    summary: 'Reads all content and compares it with its hashes; names what is gone or damaged.',
    response: z.object({ files: count, notSound: z.array(notSoundSchema) }),
  },
  removeUnused: {
    method: 'post',
    path: '/api/storage/remove-unused',
    summary: 'Removes content that nothing refers to and that has not been needed for some days.',
    response: z.object({ files: count, bytes: count }),
  },
} as const satisfies Record<string, RouteSpec>;
export type Storage = z.infer<typeof storageSchema>;
export type NotSoundContent = z.infer<typeof notSoundSchema>;
