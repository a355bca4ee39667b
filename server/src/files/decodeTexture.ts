import { EngineError } from '@variscen/engine';
import sharp from 'sharp';

/** RGBA, 8 bit. @throws EngineError where the image is not the one that was imported */
export async function decodeTexture(t: { readonly name: string; readonly width: number; readonly height: number }, bytes: Uint8Array): Promise<Uint8Array> {
  const { data, info } = await sharp(bytes).ensureAlpha().toColourspace('srgb').raw({ depth: 'uchar' }).toBuffer({ resolveWithObject: true });
  if (info.width !== t.width || info.height !== t.height) throw new EngineError('BAD_TEXTURE', `Texture “${t.name}” is damaged: it has ${info.width} × ${info.height} pixels instead of ${t.width} × ${t.height}. Bring the scene in again.`);
  return new Uint8Array(data.buffer, data.byteOffset, data.byteLength);
}
