// Pictures, maps and other content by hash.
import * as z from 'zod';
import { changeSchema, hashSchema, idSchema } from '../looks.ts';
import { environmentMapSchema } from '../project.ts';
import { renderFileKindSchema } from '../render.ts';
import { type RouteSpec, fileNameSchema } from './spec.ts';

export const FILES_ROUTES = {
  importAsset: {
    method: 'post',
    path: '/api/assets',
    summary: 'Stores a picture (PNG, JPEG, TIFF, WebP): a plate of a camera, a map of a material.',
    query: z.object({ fileName: fileNameSchema }),
    upload: 'application/octet-stream',
    response: z.object({
      hash: hashSchema,
      name: z.string(),
      widthPx: z.int(),
      heightPx: z.int(),
      mediaType: z.string(),
    }),
  },
  importLut: {
    method: 'post',
    path: '/api/luts',
    summary: 'Brings a LUT in (.cube, three-dimensional). A grade refers to it by its value.',
    query: z.object({ fileName: fileNameSchema }),
    upload: 'application/octet-stream',
    response: z.object({ value: z.string(), name: z.string(), size: z.int() }),
  },
  listEnvironments: {
    method: 'get',
    path: '/api/environments',
    summary: 'Environment maps that were brought in.',
    response: z.array(environmentMapSchema),
  },
  importEnvironment: {
    method: 'post',
    path: '/api/environments',
    summary: 'Brings an environment map in (Radiance HDR, OpenEXR; latitude-longitude).',
    query: z.object({ fileName: fileNameSchema }),
    upload: 'application/octet-stream',
    response: environmentMapSchema.extend({ remarks: z.array(z.string()) }),
  },
  renderFile: {
    method: 'get',
    path: '/api/renders/{renderId}/files/{kind}',
    summary: 'A file of a render.',
    params: z.object({ renderId: idSchema, kind: renderFileKindSchema }),
    download: 'application/octet-stream',
  },
  renderLight: {
    method: 'get',
    path: '/api/renders/{renderId}/light',
    summary:
      'A picture of a render with its light groups apart, no wider than asked for, as one file (core/src/image/lightPicture.ts).',
    params: z.object({ renderId: idSchema }),
    query: z.object({ widthPx: z.string().regex(/^[1-9]\d{0,4}$/) }),
    download: 'application/octet-stream',
  },
  renderLook: {
    method: 'get',
    path: '/api/renders/{renderId}/look',
    summary: 'What a render was made from: its scene, and all that its look says of it.',
    params: z.object({ renderId: idSchema }),
    response: z.object({ sceneHash: hashSchema, changes: z.array(changeSchema) }),
  },
  asset: {
    method: 'get',
    path: '/api/assets/{hash}',
    summary: 'Bytes by content hash: scene documents, geometry, images.',
    node: 'also',
    params: z.object({ hash: hashSchema }),
    download: 'application/octet-stream',
  },
  assets: {
    method: 'get',
    path: '/api/assets',
    summary:
      'Several contents in one answer: for each its length in bytes as four bytes, little-endian, and then its bytes.',
    query: z.object({
      hashes: z.string().regex(/^[0-9a-f]{64}(,[0-9a-f]{64}){0,99}$/, 'Up to 100 content hashes, with commas between.'),
    }),
    download: 'application/octet-stream',
  },
} as const satisfies Record<string, RouteSpec>;
