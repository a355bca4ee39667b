// Which pictures make the preview film of a sequence, and how long each is shown.
import { AppError, type Render, type RenderFileKind } from '@variscen/contract';
import { FRAMES_PER_SECOND } from '@variscen/core/scene';
import type { FilmFrame } from '../files/film.ts';
import type { OutputFolder } from '../files/outputFolder.ts';

/** The largest that a browser could show, first. */
const SHOWN: readonly RenderFileKind[] = ['png', 'webp', 'jpeg', 'thumbnail'];
/** A longer film is made of every second frame, every third … */
const MOST_FRAMES = 480;

/** @param rendered at least one, frames ascending */
export async function framesOfFilm(
  rendered: readonly (Render & { readonly frame: number })[],
  output: OutputFolder,
): Promise<FilmFrame[]> {
  const every = Math.ceil(rendered.length / MOST_FRAMES);
  const taken = rendered.filter((_, i) => i % every === 0);
  return Promise.all(
    taken.map(async (r, i) => {
      const file = SHOWN.map((kind) => r.files.find((f) => f.kind === kind)).find(Boolean);
      if (!file) throw new AppError('NOT_FOUND', `Frame ${r.frame} has no file that can be shown in a film.`);
      return { file: await output.toRead(file.path), durationMs: lengthOf(taken, i) * (1000 / FRAMES_PER_SECOND) };
    }),
  );
}

/** In frames of the scene: until the next picture begins; the last is as long as the one before it. */
function lengthOf(frames: readonly { readonly frame: number }[], i: number): number {
  const at = Math.min(i, frames.length - 2);
  return at < 0 ? 1 : frames[at + 1]!.frame - frames[at]!.frame;
}
