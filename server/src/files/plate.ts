// A picture that a camera is matched against or that a material shows: checked by decoding it, kept as the browser can
// show it.
import { readFile } from 'node:fs/promises';
import { AppError } from '@variscen/contract';
import sharp from 'sharp';
import type { PlateOutcome } from '../work/tasks.ts';
import type { AssetStore } from './store.ts';

const MAX_SIDE_PX = 16_384;

/** PNG and JPEG are kept as they are, TIFF becomes a PNG. @throws AppError IMPORT_FAILED */
export async function storePlate(assets: AssetStore, file: string, fileName: string): Promise<PlateOutcome> {
  const bytes = await readFile(file);
  const failed = (why: string, remedy?: string) => new AppError('IMPORT_FAILED', `“${fileName}” ${why}`, remedy);
  const image = sharp(bytes, { failOn: 'error', limitInputPixels: MAX_SIDE_PX * MAX_SIDE_PX });
  const about = await image.metadata().catch(() => undefined);
  if (!about || !['png', 'jpeg', 'tiff', 'webp'].includes(about.format))
    throw failed('is not a picture that can be read.', 'Bring a PNG, JPEG or TIFF.');
  const { data, info } = await image
    .clone()
    .rotate()
    .png()
    .toBuffer({ resolveWithObject: true })
    .catch((e: unknown) => {
      throw /pixel limit/i.test(String(e))
        ? failed(`has more than ${MAX_SIDE_PX} × ${MAX_SIDE_PX} pixels.`, 'Save it smaller.')
        : failed('is damaged: it cannot be decoded.', 'Save it again.');
    });
  const made = about.format === 'tiff' || (about.orientation ?? 1) !== 1;
  return {
    hash: await assets.put(made ? data : bytes),
    name: fileName,
    widthPx: info.width,
    heightPx: info.height,
    mediaType: `image/${made ? 'png' : about.format}`,
  };
}
