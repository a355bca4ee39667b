// A preview film: pictures of a sequence, one after the other, as an animated WebP.
import { writeFile } from 'node:fs/promises';
import sharp from 'sharp';

export interface FilmFrame {
  /** A picture as a screen shows it. */
  readonly file: string;
  readonly durationMs: number;
}
export interface FilmOutcome {
  readonly bytes: number;
}
/** Small enough that hundreds of pictures are held at once, and sent over a slow line. */
const MOST_SIDE_PX = 640;
const QUALITY = 78;

/** All have the shape of the first: one that was rendered in another is set into it, with black about it. */
export async function writeFilm(frames: readonly FilmFrame[], file: string): Promise<FilmOutcome> {
  const first = await sharp(frames[0]!.file).metadata();
  const scale = Math.min(1, MOST_SIDE_PX / Math.max(first.width, first.height));
  const width = Math.max(1, Math.round(first.width * scale));
  const height = Math.max(1, Math.round(first.height * scale));
  const pictures: Buffer[] = [];
  for (const frame of frames)
    pictures.push(
      await sharp(frame.file)
        .resize(width, height, { fit: 'contain', background: 'black' })
        .removeAlpha()
        .png({ compressionLevel: 1 })
        .toBuffer(),
    );
  const delay = frames.map((f) => Math.round(f.durationMs));
  const made = sharp(pictures, { join: { animated: true } }).webp({ quality: QUALITY, delay, loop: 0 });
  const bytes = await made.toBuffer();
  await writeFile(file, bytes);
  return { bytes: bytes.length };
}
