// What lies in the data folder.
import * as z from 'zod';
import { hashSchema, idSchema } from '../looks.ts';
import type { RouteSpec } from './spec.ts';

export const MADE = ['tiles', 'evidence'] as const;
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

/** Bytes on the disks. */
export const storageUsesSchema = z
  .object({
    projects: z.array(
      z.object({
        projectId: idSchema,
        name: z.string(),
        /** Files of pictures, each once. */
        pictures: count,
        /** Of them those that only older versions have. */
        older: count,
        /** Cleaned up, and gone after a week. */
        aside: count,
        deliveries: count,
        /** Pictures of others that are compared with; their content may be that of other projects, too. */
        references: count,
        /** Of slices of what is being rendered. */
        films: count,
        /** Made of pictures to look at them, and made again where they are gone. */
        tiles: count,
      }),
    ),
    /** What was measured of cells; scenes and looks that are alike share it. */
    evidence: count,
    /** Meshes and textures as engines load them, of all projects. */
    parts: count,
  })
  .meta({ id: 'StorageUses' });

export const STORAGE_ROUTES = {
  storage: {
    method: 'get',
    path: '/api/storage',
    summary: 'How much lies in the data folder, and how much of it nothing refers to.',
    response: storageSchema,
  },
  storageUses: {
    method: 'get',
    path: '/api/storage/uses',
    summary: 'What takes space on the disks, by project.',
    response: storageUsesSchema,
  },
  dropMade: {
    method: 'post',
    path: '/api/storage/drop-made',
    summary: 'Removes what was made to be quicker, and is made again when it is needed.',
    body: z.object({ what: z.enum(MADE) }),
    response: z.object({ bytes: count }),
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
export type StorageUses = z.infer<typeof storageUsesSchema>;
export type Storage = z.infer<typeof storageSchema>;
export type NotSoundContent = z.infer<typeof notSoundSchema>;
