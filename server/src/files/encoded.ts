// How pictures of a screen are written, by their profile.
import type { FileKind, Profile } from '@variscen/core/plan';
import type { Sharp } from 'sharp';
import { withSrgbProfile } from './srgbProfile.ts';

export const THUMBNAIL_PX = 480;

export async function encoded(image: Sharp, kind: FileKind, profile: Pick<Profile, 'files'>): Promise<Buffer> {
  const { files } = profile;
  if (kind === 'jpeg') return image.jpeg({ quality: files.jpeg!, chromaSubsampling: '4:4:4' }).toBuffer();
  if (kind === 'webp') return image.webp({ quality: files.webp! }).toBuffer();
  if (isDeep(kind, profile)) return encodedDeep(image, kind === 'tiff' ? 'tiff' : 'png');
  return image.png().toBuffer();
}
/** @param image of 16 bits, that no profile was put to */
export async function encodedDeep(image: Sharp, format: 'png' | 'tiff'): Promise<Buffer> {
  const written = format === 'tiff' ? image.tiff({ compression: 'deflate', predictor: 'horizontal' }) : image.png();
  return withSrgbProfile(await written.toBuffer(), format);
}
/** Whether a file of it has codes of 16 bits. */
export const isDeep = (kind: FileKind, { files }: Pick<Profile, 'files'>): boolean =>
  (kind === 'png' && files.png === 16) || kind === 'tiff';
