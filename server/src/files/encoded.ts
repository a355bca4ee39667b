// How pictures of a screen are written, by their profile.
import type { FileKind, Profile } from '@variscen/core/plan';
import type { Sharp } from 'sharp';

export const THUMBNAIL_PX = 480;

export function encoded(image: Sharp, kind: FileKind, { files }: Pick<Profile, 'files'>): Sharp {
  if (kind === 'tiff') return image.tiff({ compression: 'deflate', predictor: 'horizontal' });
  if (kind === 'jpeg') return image.jpeg({ quality: files.jpeg!, chromaSubsampling: '4:4:4' });
  if (kind === 'webp') return image.webp({ quality: files.webp! });
  return image.png();
}
/** Whether a file of it has codes of 16 bits. */
export const isDeep = (kind: FileKind, { files }: Pick<Profile, 'files'>): boolean =>
  (kind === 'png' && files.png === 16) || kind === 'tiff';
