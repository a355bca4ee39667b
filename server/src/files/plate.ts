// A picture that a camera is matched against or that a material shows: checked by decoding it, kept as the browser can
// show it.
import { readFile } from 'node:fs/promises';
import { AppError } from '@variscen/contract';
import sharp from 'sharp';
import type { AssetStore } from './store.ts';

const MAX_BYTES = 200e6;
const MAX_SIDE_PX = 16_384;

/** PNG and JPEG are kept as they are, TIFF becomes a PNG. @throws AppError IMPORT_FAILED */
export async function storePlate(
  assets: AssetStore,
  file: string,
  fileName: string,
): Promise<{
  readonly hash: string;
  readonly name: string;
  readonly widthPx: number;
  readonly heightPx: number;
  readonly mediaType: string;
}> {
  const bytes = await readFile(file);
  const failed = (why: string, remedy?: string) => new AppError('IMPORT_FAILED', `“${fileName}” ${why}`, remedy);
  if (bytes.length > MAX_BYTES) throw failed('is larger than 200 MB.', 'Save it smaller.');
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
      throw failed(`cannot be read: ${e instanceof Error ? e.message.split('\n')[0]! : String(e)}.`, 'Save it again.');
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
