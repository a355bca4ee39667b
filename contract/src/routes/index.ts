// Every route of the HTTP API, declared once: the server mounts them from here, so that what is described is what there
// is.
import { BATCHES_ROUTES } from './batches.ts';
import { BOARD_ROUTES } from './board.ts';
import { CAMERAS_ROUTES } from './cameras.ts';
import { CLEANING_ROUTES } from './cleaning.ts';
import { CULL_ROUTES } from './cull.ts';
import { DELIVERIES_ROUTES } from './deliveries.ts';
import { EVENTS_ROUTES } from './events.ts';
import { FILES_ROUTES } from './files.ts';
import { LIBRARY_ROUTES } from './library.ts';
import { LOOKS_ROUTES } from './looks.ts';
import { MACHINES_ROUTES } from './machines.ts';
import { NODES_ROUTES } from './nodes.ts';
import { PICTURES_ROUTES } from './pictures.ts';
import { PROJECTS_ROUTES } from './projects.ts';
import { QUEUE_ROUTES } from './queue.ts';
import { REVIEWS_ROUTES } from './reviews.ts';
import { SCENE_ROUTES } from './scene.ts';
import { STORAGE_ROUTES } from './storage.ts';

export { BATCHES_ROUTES };
export { BOARD_ROUTES };
export { CAMERAS_ROUTES };
export { CLEANING_ROUTES };
export { CULL_ROUTES };
export { DELIVERIES_ROUTES };
export { EVENTS_ROUTES };
export { FILES_ROUTES };
export { LIBRARY_ROUTES };
export { LOOKS_ROUTES };
export { MACHINES_ROUTES };
export { NODES_ROUTES };
export { PICTURES_ROUTES };
export { PROJECTS_ROUTES };
export { QUEUE_ROUTES };
export { REVIEWS_ROUTES };
export { SCENE_ROUTES };
export { STORAGE_ROUTES };
export type { NotSoundContent, Storage, StorageUses } from './storage.ts';
export type { RouteSpec } from './spec.ts';

export const ROUTES = {
  ...PROJECTS_ROUTES,
  ...SCENE_ROUTES,
  ...CAMERAS_ROUTES,
  ...CULL_ROUTES,
  ...LOOKS_ROUTES,
  ...LIBRARY_ROUTES,
  ...BATCHES_ROUTES,
  ...BOARD_ROUTES,
  ...QUEUE_ROUTES,
  ...FILES_ROUTES,
  ...PICTURES_ROUTES,
  ...REVIEWS_ROUTES,
  ...DELIVERIES_ROUTES,
  ...MACHINES_ROUTES,
  ...NODES_ROUTES,
  ...EVENTS_ROUTES,
  ...STORAGE_ROUTES,
  ...CLEANING_ROUTES,
} as const;
export type RouteName = keyof typeof ROUTES;
