// Finished pictures as they are looked at: layer by layer, at any size, in tiles.
import * as z from 'zod';
import { idSchema } from '../looks.ts';
import { gradeSchema, pictureLayerSchema, tiledPictureSchema } from '../pictures.ts';
import { referenceSchema } from '../references.ts';
import { type RouteSpec, fileNameSchema, part, project } from './spec.ts';

/** Of a picture that was rendered here, or of a reference. */
const render = z.object({ renderId: idSchema });
const layer = render.extend({ layer: z.string().min(1).max(300) });
/** Of the picture's width or height, from the left or from the top. */
const shareSchema = z.string().regex(/^(0(\.\d{1,20})?|1(\.0{1,20})?)$/, 'A number from 0 to 1.');
const tile = '\\d{1,2}\\.\\d{1,4}\\.\\d{1,4}';

export const PICTURES_ROUTES = {
  pictureLayers: {
    method: 'get',
    path: '/api/renders/{renderId}/layers',
    summary: 'Which layers of a picture there are to look at, and how its look shows it.',
    params: render,
    response: z.object({ layers: z.array(pictureLayerSchema), grade: gradeSchema }),
  },
  tiledPicture: {
    method: 'get',
    path: '/api/renders/{renderId}/layers/{layer}',
    summary: 'Size of a layer, which is made ready to be looked at in tiles.',
    params: layer,
    response: tiledPictureSchema,
  },
  tiles: {
    method: 'get',
    path: '/api/renders/{renderId}/layers/{layer}/tiles',
    summary:
      'Tiles of a layer, up to 64: for each its length in bytes as four bytes, little-endian, and then its bytes, packed by deflate (core/src/image/pyramid).',
    params: layer,
    query: z.object({
      at: z.string().regex(new RegExp(`^${tile}(,${tile}){0,63}$`), 'Level, column and row of tiles, as 0.3.2,0.4.2'),
      /** Browsers keep tiles: those of a picture that was cleaned up are others than before. */
      of: z.string().max(40).optional(),
    }),
    download: 'application/octet-stream',
  },
  objectsInPicture: {
    method: 'get',
    path: '/api/renders/{renderId}/objects',
    summary: 'Which objects cover a pixel of a picture, by the ids of its OpenEXR file, most of it first.',
    params: render,
    query: z.object({ x: shareSchema, y: shareSchema }),
    response: z.object({ objects: z.array(z.object({ path: z.string(), share: z.number() })) }),
  },
  pictureMask: {
    method: 'get',
    path: '/api/renders/{renderId}/mask',
    summary: 'A picture with everything dark but one object, to be laid over it: a PNG, black where the object is not.',
    params: render,
    query: z.object({ object: z.string().min(1).max(4000) }),
    download: 'image/png',
  },
  references: {
    method: 'get',
    path: '/api/projects/{projectId}/references',
    summary: 'Pictures of others that were opened to be compared with, in the order of their names.',
    params: project,
    response: z.array(referenceSchema),
  },
  openReference: {
    method: 'post',
    path: '/api/projects/{projectId}/references',
    summary:
      'Opens a picture of others: OpenEXR, PNG, JPEG, TIFF or WebP. Its layers are looked at as those of renders.',
    params: project,
    query: z.object({ fileName: fileNameSchema }),
    upload: 'application/octet-stream',
    response: referenceSchema,
  },
  closeReference: {
    method: 'delete',
    path: '/api/projects/{projectId}/references/{referenceId}',
    summary: 'Closes a picture of others. The file that it came from is not touched.',
    params: part('referenceId'),
    response: z.object({ name: z.string() }),
  },
} as const satisfies Record<string, RouteSpec>;
