// How pictures of a screen are written, by their profile.
import type { FileKind, Profile } from '@variscen/core/plan';
import type { Sharp } from 'sharp';
import type { Display } from '@variscen/core/image';
import { type ProfiledFormat, withProfile } from './colourProfile.ts';

export const THUMBNAIL_PX = 480;
/** About one per cent larger than by the usual 6, in two thirds of the time. */
export const PNG = { compressionLevel: 3 } as const;

export async function encoded(image: Sharp, kind: FileKind, profile: Pick<Profile, 'files'>): Promise<Buffer> {
  const { files } = profile;
  if (kind === 'jpeg') return image.jpeg({ quality: files.jpeg!, chromaSubsampling: '4:4:4' }).toBuffer();
  if (kind === 'webp') return image.webp({ quality: files.webp! }).toBuffer();
  if (isDeep(kind, profile)) return encodedDeep(image, kind === 'tiff' ? 'tiff' : 'png');
  return image.png(PNG).toBuffer();
}
/** @param image of 16 bits, that no profile was put to */
export async function encodedDeep(image: Sharp, format: 'png' | 'tiff', display: Display = 'srgb'): Promise<Buffer> {
  const written = format === 'tiff' ? image.tiff({ compression: 'deflate', predictor: 'horizontal' }) : image.png(PNG);
  return withProfile(await written.toBuffer(), format, display);
}
/** @param image of 8 bits, with the profile of sRGB where it is for that, and described */
export async function encodedPlain(image: Sharp, format: ProfiledFormat, display: Display): Promise<Buffer> {
  const file = await image.toBuffer();
  return display === 'srgb' ? file : withProfile(file, format, display);
}
/** Whether a file of it has codes of 16 bits. */
export const isDeep = (kind: FileKind, { files }: Pick<Profile, 'files'>): boolean =>
  (kind === 'png' && files.png === 16) || kind === 'tiff';
