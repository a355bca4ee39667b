// Writes the files that show pictures anew, from one stored light by their grades: nothing is traced.
import { NO_GRADE } from '@variscen/core/image';
import type { FileKind } from '@variscen/core/plan';
import type { Sharp } from 'sharp';
import { described } from '../files/described.ts';
import { asRefusal } from '../files/diskFaults.ts';
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

const isGraded = ({ profile }: Picture, kind: FileKind): boolean => kind === 'thumbnail' || profile.files.graded;
const bitsOf = ({ profile }: Picture, kind: FileKind): 8 | 16 => (isDeep(kind, profile) ? 16 : 8);
const isShownSo = (picture: Picture, { kind }: File, { grade, bits }: Shown): boolean =>
  bits === bitsOf(picture, kind) && (grade !== NO_GRADE) === isGraded(picture, kind);
/** In how many ways a picture is shown in its files. */
function waysOf(picture: Picture): Shown[] {
  const ways: Shown[] = [];
  for (const file of picture.files)
    if (!ways.some((way) => isShownSo(picture, file, way)))
      ways.push({ grade: isGraded(picture, file.kind) ? picture.grade : NO_GRADE, bits: bitsOf(picture, file.kind) });
  return ways;
}

/** @throws AppError NOT_STORED where the disk does not take it */
async function write(picture: Picture, { kind, file }: File, image: Sharp): Promise<void> {
  const bytes = await bytesOf(picture, kind, image);
  try {
    await writeFlushed(file, bytes);
  } catch (e) {
    throw asRefusal(e, picture.description);
  }
}
async function bytesOf(picture: Picture, kind: FileKind, image: Sharp): Promise<Buffer> {
  if (kind === 'thumbnail') {
    const size = { width: THUMBNAIL_PX, height: THUMBNAIL_PX, fit: 'inside', withoutEnlargement: true } as const;
    return image.resize(size).png().toBuffer();
  }
  const how = isGraded(picture, kind) ? 'graded' : 'not graded';
  const named = image.withXmp(described(`${picture.description}, ${how}`));
  return encoded(named, kind, picture.profile);
}
