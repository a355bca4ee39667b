// Finished pictures as they are looked at.
import type { PICTURES_ROUTES } from '@variscen/contract';
import type { Handlers } from '../handler.ts';
import type { Services } from '../services.ts';

/** It is unpacked whole. */
const MOST_REFERENCE_BYTES = 1e9;

export const picturesHandlers = ({ pictures, references, uploads }: Services): Handlers<typeof PICTURES_ROUTES> => ({
  pictureLayers: ({ params }) => pictures.layers(params.renderId),
  tiledPicture: async ({ params }) => {
    const { widthPx, heightPx, channels } = await pictures.about(params.renderId, params.layer);
    return { widthPx, heightPx, channels };
  },
  objectsInPicture: async ({ params, query }) => ({
    objects: await pictures.objectsAt(params.renderId, [Number(query.x), Number(query.y)]),
  }),
  pictureMask: async ({ params, query, res }) => {
    await uploads.sent(res, { mediaType: 'image/png', fileName: 'mask.png' }, (file) =>
      pictures.mask(params.renderId, query.object, file),
    );
  },
  references: ({ params }) => references.list(params.projectId),
  openReference: ({ params, query, req, res }) =>
    uploads.received(
      { req, res },
      query.fileName,
      (file, signal) => references.open(params.projectId, file, query.fileName, signal),
      MOST_REFERENCE_BYTES,
    ),
  closeReference: ({ params }) => references.close(params.projectId, params.referenceId),
  tiles: async ({ params, query, res }) => {
    const wanted = query.at.split(',').map((text) => {
      const [level, x, y] = text.split('.').map(Number) as [number, number, number];
      return { level, x, y };
    });
    const tiles = await pictures.tiles(params.renderId, params.layer, wanted);
    const out = Buffer.alloc(tiles.reduce((n, tile) => n + 4 + tile.length, 0));
    let at = 0;
    for (const tile of tiles) {
      at = out.writeUInt32LE(tile.length, at);
      out.set(tile, at);
      at += tile.length;
    }
    // a render is never changed
    res.type('application/octet-stream').set('Cache-Control', 'private, max-age=31536000, immutable');
    res.send(out);
  },
});
