import { EngineError } from '@variscen/engine';
import sharp from 'sharp';

/** RGBA, 8 or 16 bit as in the file. @throws EngineError where the image is not the one that was imported */
export async function decodeTexture(
  t: { readonly name: string; readonly width: number; readonly height: number; readonly bits?: 16 },
  bytes: Uint8Array,
): Promise<Uint8Array | Uint16Array> {
  const wide = t.bits === 16;
  const image = sharp(bytes)
    .ensureAlpha()
    .toColourspace(wide ? 'rgb16' : 'srgb')
    .raw({ depth: wide ? 'ushort' : 'uchar' });
  const { data, info } = await image.toBuffer({ resolveWithObject: true });
  if (info.width !== t.width || info.height !== t.height)
    throw new EngineError(
      'BAD_TEXTURE',
      `Texture “${t.name}” is damaged: it has ${info.width} × ${info.height} pixels instead of ${t.width} × ${t.height}. Import the scene again.`,
    );
  const own = new Uint8Array(data); // a copy, so that 16-bit values are aligned
  return wide ? new Uint16Array(own.buffer) : own;
}
