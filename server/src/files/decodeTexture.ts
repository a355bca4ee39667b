import { EngineError } from '@variscen/engine';
import sharp from 'sharp';

/**
 * As many as a scene file's textures may have: those of 16384 × 16384. Colour profiles are no part of glTF textures.
 */
const OPTIONS = { limitInputPixels: 16384 * 16384, ignoreIcc: true };

/** What is wrong with an encoded image, in a few words; null where it can be decoded to that size. */
export async function damageOf(image: Uint8Array, widthPx: number, heightPx: number): Promise<string | null> {
  try {
    const { width, height } = await sharp(image, { ...OPTIONS, failOn: 'error' }).metadata();
    if (width !== widthPx || height !== heightPx) return `it has ${width} × ${height} pixels`;
    await sharp(image, { ...OPTIONS, failOn: 'error' }).stats(); // decodes it row by row
    return null;
  } catch (e) {
    return plainReason(e);
  }
}
/** The decoder's own words say its name and that of the format's library: “vipspng: libpng read error”. */
function plainReason(e: unknown): string {
  const words = e instanceof Error ? e.message : String(e);
  return /unsupported image format/i.test(words) ? 'it is no image that can be read' : 'it cannot be decoded';
}

/** RGBA, 8 or 16 bit as in the file. @throws EngineError where the image is not the one that was imported */
export async function decodeTexture(
  t: { readonly name: string; readonly width: number; readonly height: number; readonly bits?: 16 },
  bytes: Uint8Array,
): Promise<Uint8Array | Uint16Array> {
  const wide = t.bits === 16;
  const image = sharp(bytes, OPTIONS)
    .ensureAlpha()
    .toColourspace(wide ? 'rgb16' : 'srgb')
    .raw({ depth: wide ? 'ushort' : 'uchar' });
  const { data, info } = await image.toBuffer({ resolveWithObject: true }).catch((e: unknown) => {
    const reason = plainReason(e);
    throw new EngineError('BAD_TEXTURE', `Texture “${t.name}” is damaged: ${reason}. Import the scene again.`);
  });
  if (info.width !== t.width || info.height !== t.height)
    throw new EngineError(
      'BAD_TEXTURE',
      `Texture “${t.name}” is damaged: it has ${info.width} × ${info.height} pixels instead of ${t.width} × ${t.height}. Import the scene again.`,
    );
  const own = new Uint8Array(data); // a copy, so that 16-bit values are aligned
  return wide ? new Uint16Array(own.buffer) : own;
}
