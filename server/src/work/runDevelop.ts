// Writes the files that show pictures anew, from one stored light by their grades: nothing is traced.
import { NO_GRADE } from '@variscen/core/image';
import type { Sharp } from 'sharp';
import { described } from '../files/described.ts';
import { type Shown, developedTogether } from '../files/developed.ts';
import { THUMBNAIL_PX, encoded, isDeep } from '../files/encoded.ts';
import { writeFlushed } from '../files/writeFlushed.ts';
import type { DevelopTask } from './tasks.ts';

type Picture = DevelopTask['pictures'][number];
type File = Picture['files'][number];

export async function runDevelop(t: DevelopTask): Promise<{ readonly files: number }> {
  const shown = t.pictures.map((picture) => waysOf(picture));
  const made = await developedTogether(t.light, shown.flat(), t.assets);
  let files = 0;
  for (const [i, picture] of t.pictures.entries()) {
    const images = made.splice(0, shown[i]!.length);
    for (const file of picture.files) {
      await write(picture, file, images[shown[i]!.findIndex((s) => isShownSo(picture, file, s))]!.clone());
      files++;
    }
  }
  return { files };
}

const isGraded = ({ profile }: Picture, { kind }: File): boolean => kind === 'thumbnail' || profile.files.graded;
const bitsOf = ({ profile }: Picture, { kind }: File): 8 | 16 => (isDeep(kind, profile) ? 16 : 8);
const isShownSo = (picture: Picture, file: File, { grade, bits }: Shown): boolean =>
  bits === bitsOf(picture, file) && (grade !== NO_GRADE) === isGraded(picture, file);
/** In how many ways a picture is shown in its files. */
function waysOf(picture: Picture): Shown[] {
  const ways: Shown[] = [];
  for (const file of picture.files)
    if (!ways.some((way) => isShownSo(picture, file, way)))
      ways.push({ grade: isGraded(picture, file) ? picture.grade : NO_GRADE, bits: bitsOf(picture, file) });
  return ways;
}

async function write(picture: Picture, { kind, file }: File, image: Sharp): Promise<void> {
  if (kind === 'thumbnail') {
    const size = { width: THUMBNAIL_PX, height: THUMBNAIL_PX, fit: 'inside', withoutEnlargement: true } as const;
    await writeFlushed(file, await image.resize(size).png().toBuffer());
    return;
  }
  const how = isGraded(picture, { kind, file }) ? 'graded' : 'not graded';
  const named = image.withXmp(described(`${picture.description}, ${how}`));
  await writeFlushed(file, await encoded(named, kind, picture.profile));
}
