// An image at one of its coarser levels, in the same format.
import type { SceneTexture } from '@variscen/core/scene';
import { madeLevels, mipSizes } from '@variscen/engine';
import sharp from 'sharp';
import { decodeTexture } from './decodeTexture.ts';

const QUALITY = 92;

/**
 * @param level 0: as it is
 * @param isSrgb its colours are averaged as light
 * @returns encoded; the whole image where its format cannot be written
 */
export async function halvedTexture(
  t: SceneTexture,
  image: Uint8Array,
  level: number,
  isSrgb: boolean,
): Promise<Uint8Array> {
  if (level <= 0) return image;
  const texels = madeLevels(t, await decodeTexture(t, image), level, isSrgb)[0]!;
  const { width, height } = mipSizes(t.width, t.height)[level]!;
  const made = sharp(texels, { raw: { width, height, channels: 4 } });
  switch (t.mediaType) {
    case 'image/png':
      return made
        .toColourspace(t.bits === 16 ? 'rgb16' : 'srgb')
        .png({ compressionLevel: 9 })
        .toBuffer();
    case 'image/jpeg':
      return made.removeAlpha().jpeg({ quality: QUALITY, chromaSubsampling: '4:4:4' }).toBuffer();
    case 'image/webp':
      return made.webp({ quality: QUALITY }).toBuffer();
    default:
      return image;
  }
}
