// Writes the files that show a picture anew, from its stored light by another grade: nothing is traced.
import { NO_GRADE } from '@variscen/core/image';
import type { Sharp } from 'sharp';
import { described } from '../files/described.ts';
import { type PictureSource, developed } from '../files/developed.ts';
import { THUMBNAIL_PX, encoded, isDeep } from '../files/encoded.ts';
import { writeFlushed } from '../files/writeFlushed.ts';
import type { DevelopTask } from './tasks.ts';

export async function runDevelop(t: DevelopTask): Promise<{ readonly files: number }> {
  const { path, grade } = t.source;
  const graded = { kind: 'exr', path, grade } as const;
  const ungraded: Extract<PictureSource, { kind: 'exr' }> = { kind: 'exr', path, grade: NO_GRADE };
  // the light is read once for all files that show it alike
  const made = new Map<string, Sharp>();
  const shownBy = async (source: typeof ungraded, bits: 8 | 16): Promise<Sharp> => {
    const key = `${bits} ${source === ungraded}`;
    const known = made.get(key) ?? (await developed(source, { bits, widthPx: null }, t.assets));
    made.set(key, known);
    return known.clone();
  };
  for (const { kind, file } of t.files) {
    const isShownGraded = kind === 'thumbnail' || t.profile.files.graded;
    const source = isShownGraded ? graded : ungraded;
    const bits = isDeep(kind, t.profile) ? 16 : 8;
    const image = await shownBy(source, bits);
    if (kind === 'thumbnail') {
      const size = { width: THUMBNAIL_PX, height: THUMBNAIL_PX, fit: 'inside', withoutEnlargement: true } as const;
      await writeFlushed(file, await image.resize(size).png().toBuffer());
      continue;
    }
    const how = isShownGraded ? 'graded' : 'not graded';
    const shown = image.withXmp(described(`${t.description}, ${how}`));
    await writeFlushed(file, await encoded(shown, kind, t.profile));
  }
  return { files: t.files.length };
}
