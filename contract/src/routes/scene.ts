// Scenes and their revisions.
import * as z from 'zod';
import { idSchema } from '../looks.ts';
import { handMatchSchema, matchPreviewSchema, projectSchema, revisionSchema } from '../project.ts';
import { type RouteSpec, project, part, fileNameSchema } from './spec.ts';

export const SCENE_ROUTES = {
  importScene: {
    method: 'post',
    path: '/api/projects/{projectId}/scene',
    summary:
      'Imports a scene file (.glb, .gltf, .obj, .zip). Answers when it is stored: in force in a project without a scene, offered as a newer revision in one that has.',
    params: project,
    query: z.object({ fileName: fileNameSchema, metresPerUnit: z.coerce.number().min(1e-6).max(1e6).optional() }),
    upload: 'application/octet-stream',
    response: revisionSchema,
  },
  exportScene: {
    method: 'get',
    path: '/api/projects/{projectId}/scene.glb',
    summary:
      'The scene as GLB, with options of Materials as its material variants. Without animation, skins and morph targets.',
    params: project,
    query: z.object({
      options: z
        .string()
        .regex(/^([0-9a-f-]{36}(,[0-9a-f-]{36}){0,499})?$/, 'Up to 500 options, with commas between.')
        .default(''),
    }),
    download: 'model/gltf-binary',
  },
  listRevisions: {
    method: 'get',
    path: '/api/projects/{projectId}/revisions',
    summary: 'Every revision of the scene with its report, newest first.',
    params: project,
    response: z.array(revisionSchema),
  },
  matchRevision: {
    method: 'post',
    path: '/api/projects/{projectId}/revisions/{revisionId}/match',
    summary: 'What an offered revision holds of what is known, and what is gone, moved and new. Changes nothing.',
    params: part('revisionId'),
    body: z.object({ byHand: z.array(handMatchSchema).max(20_000) }),
    response: matchPreviewSchema,
  },
  acceptRevision: {
    method: 'post',
    path: '/api/projects/{projectId}/revisions/{revisionId}/accept',
    summary: 'Puts an offered revision in force.',
    params: part('revisionId'),
    body: z.object({
      byHand: z.array(handMatchSchema).max(20_000),
      addCameras: z.array(z.string()).max(1000),
      moveCameraIds: z.array(idSchema).max(1000),
    }),
    response: projectSchema,
  },
  useRevision: {
    method: 'post',
    path: '/api/projects/{projectId}/revisions/{revisionId}/use',
    summary: 'Goes to another accepted revision.',
    params: part('revisionId'),
    response: projectSchema,
  },
  discardRevision: {
    method: 'delete',
    path: '/api/projects/{projectId}/revisions/{revisionId}',
    summary: 'Discards an offered revision.',
    params: part('revisionId'),
    response: projectSchema,
  },
  retarget: {
    method: 'post',
    path: '/api/projects/{projectId}/retarget',
    summary:
      'Moves what is recorded for one thing to another of its kind. Where both set the same value, the other keeps its own.',
    params: project,
    body: z.object({ from: z.string().max(4000), to: z.string().max(4000) }),
    response: projectSchema,
  },
} as const satisfies Record<string, RouteSpec>;
