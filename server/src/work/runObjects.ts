// Which objects a picture shows, and where, by the ids of its OpenEXR file.
import { AppError } from '@variscen/contract';
import { type ShownObject, objectIds, objectMask, objectsAt } from '@variscen/core/image';
import sharp from 'sharp';
import { withExr } from '../files/exrSource.ts';
import type { ObjectMaskTask, ObjectsAtTask } from './tasks.ts';

const MOST_WIDTH_PX = 1920;
/** How dark everything else is. */
const DARK = 0.86;

export async function runObjectsAt({ path, at }: ObjectsAtTask): Promise<{ readonly objects: readonly ShownObject[] }> {
  const objects = await withExr(path, (source) => objectsAt(source, at));
  if (!objects) throw noIds();
  return { objects };
}

export async function runObjectMask({ path, object, file }: ObjectMaskTask): Promise<{ readonly bytes: number }> {
  const mask = await withExr(path, async (source) => {
    const ids = await objectIds(source);
    if (!ids) throw noIds();
    const id = ids.get(object);
    if (id === undefined) throw new AppError('NOT_FOUND', `“${object}” is not in this picture.`);
    return objectMask(source, id, MOST_WIDTH_PX);
  });
  const { widthPx: width, heightPx: height, shares } = mask;
  const pixels = Buffer.alloc(shares.length * 4);
  shares.forEach((share, i) => (pixels[i * 4 + 3] = Math.round((255 - share) * DARK)));
  const { size } = await sharp(pixels, { raw: { width, height, channels: 4 } })
    .png()
    .toFile(file);
  return { bytes: size };
}

const noIds = (): AppError =>
  new AppError(
    'NOT_FOUND',
    'This picture has no ids of its objects.',
    'Render it with a profile whose AOVs have Object ids.',
  );
