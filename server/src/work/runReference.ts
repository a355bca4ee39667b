// A picture of others, checked by reading it and kept as it is looked at.
import { readFile } from 'node:fs/promises';
import { AppError } from '@variscen/contract';
import { MOST_REFERENCE_PIXELS, isExr, readReference } from '@variscen/core/import';
import sharp from 'sharp';
import { inflated } from '../files/exrSource.ts';
import { AssetStore } from '../files/store.ts';
import type { ReferenceOutcome, ReferenceTask } from './tasks.ts';

const READ = ['png', 'jpeg', 'tiff', 'webp'];

/** @throws AppError IMPORT_FAILED, ImportError: by the name of the file */
export async function runReference({ assets, file, fileName }: ReferenceTask): Promise<ReferenceOutcome> {
  const store = new AssetStore(assets);
  const bytes = await readFile(file);
  if (!isExr(bytes)) return keepShown(store, bytes, fileName);
  const { bytes: exr, widthPx, heightPx, remarks } = await readReference(fileName, bytes, inflated);
  return { hash: await store.put(exr), widthPx, heightPx, isLinear: true, remarks };
}

/** As a PNG of sRGB, upright. */
async function keepShown(store: AssetStore, bytes: Uint8Array, fileName: string): Promise<ReferenceOutcome> {
  const failed = (why: string, remedy: string) => new AppError('IMPORT_FAILED', `“${fileName}” ${why}`, remedy);
  const image = sharp(bytes, { failOn: 'error', limitInputPixels: MOST_REFERENCE_PIXELS });
  const about = await image.metadata().catch(() => undefined);
  if (!about || !READ.includes(about.format))
    throw failed('is not a picture that can be read.', 'Open an OpenEXR, PNG, JPEG, TIFF or WebP.');
  const { data, info } = await image
    .rotate()
    .toColourspace('srgb')
    .png({ compressionLevel: 3 })
    .toBuffer({ resolveWithObject: true })
    .catch((e: unknown) => {
      throw /pixel limit/i.test(String(e))
        ? failed('has too many pixels.', 'Save it smaller: up to 16,384 each way.')
        : failed('is damaged: it cannot be decoded.', 'Save it again.');
    });
  return { hash: await store.put(data), widthPx: info.width, heightPx: info.height, isLinear: false, remarks: [] };
}
