// Writes the files that show a picture anew, from its stored light by another grade: nothing is traced.
import { NO_GRADE } from '@variscen/core/image';
import { described } from '../files/described.ts';
import { developed } from '../files/developed.ts';
import { THUMBNAIL_PX, encoded, isDeep } from '../files/encoded.ts';
import { writeFlushed } from '../files/writeFlushed.ts';
import type { DevelopTask } from './tasks.ts';

export async function runDevelop(t: DevelopTask): Promise<{ readonly files: number }> {
  const { path, grade } = t.source;
  const ungraded = { kind: 'exr', path, grade: NO_GRADE } as const;
  for (const { kind, file } of t.files) {
    const isShownGraded = kind === 'thumbnail' || t.profile.files.graded;
    const source = isShownGraded ? ({ kind: 'exr', path, grade } as const) : ungraded;
    const bits = isDeep(kind, t.profile) ? 16 : 8;
    const image = await developed(source, { bits, widthPx: null }, t.assets);
    if (kind === 'thumbnail') {
      const size = { width: THUMBNAIL_PX, height: THUMBNAIL_PX, fit: 'inside', withoutEnlargement: true } as const;
      await writeFlushed(file, await image.resize(size).png().toBuffer());
      continue;
    }
    const how = isShownGraded ? 'graded' : 'not graded';
    const shown = image.withXmp(described(`${t.description}, ${how}`));
    await writeFlushed(file, await encoded(shown, kind, t.profile).toBuffer());
  }
  return { files: t.files.length };
}
