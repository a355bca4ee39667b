// Pictures, maps and other content by hash.
import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import { AppError, type FILES_ROUTES } from '@variscen/contract';
import { lutValue } from '@variscen/core/image';
import { Renders } from '../../db/entities/index.ts';
import { runTask } from '../../work/run.ts';
import type { Handlers } from '../handler.ts';
import type { Services } from '../services.ts';

/** What is taken is less than a scene may be: a picture is unpacked whole. */
const MOST_BYTES = { plate: 200e6, lut: 100e6, map: 1e9 };

export const filesHandlers = ({
  environments,
  lightPictures,
  uploads,
  c,
}: Services): Handlers<typeof FILES_ROUTES> => ({
  importAsset: ({ query, req, res }) =>
    uploads.received(
      { req, res },
      query.fileName,
      (file, signal) =>
        runTask({ kind: 'plate', assets: c.assetsFolder, file, fileName: query.fileName }, undefined, signal),
      MOST_BYTES.plate,
    ),
  importLut: ({ query, req, res }) =>
    uploads.received(
      { req, res },
      query.fileName,
      async (file, signal) => {
        const { hash, size } = await runTask(
          { kind: 'lut', assets: c.assetsFolder, file, fileName: query.fileName },
          undefined,
          signal,
        );
        const name = query.fileName.slice(0, 200);
        return { value: lutValue({ hash, size, name }), name, size };
      },
      MOST_BYTES.lut,
    ),
  listEnvironments: () => environments.list(),
  importEnvironment: ({ query, req, res }) =>
    uploads.received(
      { req, res },
      query.fileName,
      (file, signal) => environments.bring(file, query.fileName, signal),
      MOST_BYTES.map,
    ),
  renderFile: async ({ params, req, res }) => {
    const render = await c.db.getRepository(Renders).findOneBy({ id: params.renderId });
    const file = render?.files.find((f) => f.kind === params.kind);
    if (!file) throw new AppError('NOT_FOUND', 'There is no such picture.');
    const path = await c.output.toRead(file.path);
    if (await c.output.faultOf(file))
      throw new AppError(
        'FILE_CHANGED',
        `“${file.path}” was changed outside Variscen: it is not the picture that was rendered.`,
      );
    res
      .type(params.kind === 'exr' ? 'image/x-exr' : 'png')
      .set('Cache-Control', 'private, no-cache')
      .set('ETag', `"${file.sha256 ?? params.renderId}"`);
    if (req.fresh) return void res.status(304).end();
    await pipeline(createReadStream(path), res);
  },
  renderLight: async ({ params, query, res }) => {
    await uploads.sent(res, { mediaType: 'application/octet-stream', fileName: 'light.bin' }, (file, signal) =>
      lightPictures.write(params.renderId, Number(query.widthPx), file, signal),
    );
  },
  renderLook: ({ params }) => lightPictures.look(params.renderId),
  asset: async ({ params, res }) => {
    const path = c.assets.path(params.hash);
    if (!(await stat(path).catch(() => null)))
      throw new AppError('NOT_FOUND', 'That content is not in the data folder.');
    res.type('application/octet-stream').set('Cache-Control', 'private, max-age=31536000, immutable');
    await pipeline(createReadStream(path), res);
  },
  assets: async ({ query, res }) => {
    const files = await Promise.all(
      query.hashes.split(',').map(async (h) => {
        const path = c.assets.path(h);
        const about = await stat(path).catch(() => null);
        if (!about) throw new AppError('NOT_FOUND', 'Some of that content is not in the data folder.');
        return { path, size: about.size };
      }),
    );
    res.type('application/octet-stream').set('Cache-Control', 'private, max-age=31536000, immutable');
    // one after another from disk: a hundred of them may be more than this process should hold
    await pipeline(async function* () {
      for (const { path, size } of files) {
        const length = Buffer.alloc(4);
        length.writeUInt32LE(size);
        yield length;
        yield* createReadStream(path) as AsyncIterable<Buffer>;
      }
    }, res);
  },
});
