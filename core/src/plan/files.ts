// Which files a profile has written for a cell.
import { AOV_PLACE } from './names.ts';
import { type Aov, MOST_LIGHTS_APART, type Profile } from './profile.ts';

/** 'exr-depth': the file of an AOV that has one of its own. */
export type FileKind = 'exr' | `exr-${Aov}` | 'png' | 'tiff' | 'jpeg' | 'webp' | 'thumbnail';
export interface PlannedFile {
  readonly kind: FileKind;
  /** What follows the cell's path. */
  readonly extension: string;
  /** What {aov} stands for; absent: the picture itself. */
  readonly aov?: Aov;
}
const OF_THE_PICTURE = 'picture';

/** Where a file of a cell lies. @param path of the cell, in which {aov} may still stand */
export const pathOfFile = (path: string, { extension, aov }: Omit<PlannedFile, 'kind'>): string =>
  path.includes(AOV_PLACE)
    ? path.replaceAll(AOV_PLACE, aov ?? OF_THE_PICTURE) + extension
    : `${path}${aov ? `.${aov}` : ''}${extension}`;

/** Of a cell, without extension, as its picture has it. */
export const pathOfPicture = (path: string): string => pathOfFile(path, { extension: '' });

/** Of linear light: the same for all cells of a trace. */
export function linearFiles({ files, aovs }: Pick<Profile, 'files' | 'aovs'>): PlannedFile[] {
  if (!files.exr) return [];
  const apart = files.exr.aovsApart ? aovs : [];
  return [
    { kind: 'exr', extension: '.exr' },
    ...apart.map((aov): PlannedFile => ({ kind: `exr-${aov}`, extension: '.exr', aov })),
  ];
}
function shownFiles({ files }: Pick<Profile, 'files'>): PlannedFile[] {
  const out: PlannedFile[] = [];
  if (files.png) out.push({ kind: 'png', extension: '.png' });
  if (files.tiff) out.push({ kind: 'tiff', extension: '.tif' });
  if (files.jpeg) out.push({ kind: 'jpeg', extension: '.jpg' });
  if (files.webp) out.push({ kind: 'webp', extension: '.webp' });
  return out;
}
const THUMBNAIL: PlannedFile = { kind: 'thumbnail', extension: '.thumb.png' };

/** @param first whether it is the first cell of its trace, which has what all share */
export function filesOfCell(profile: Pick<Profile, 'files' | 'aovs'>, first: boolean): PlannedFile[] {
  const hasLinear = first || profile.files.exr?.perCell === true;
  return [...(hasLinear ? linearFiles(profile) : []), ...shownFiles(profile), THUMBNAIL];
}

/** Bytes a pixel of a layer as it is usually written; light groups: of each. */
const AOV_BYTES: Readonly<Record<Aov, number>> = {
  depth: 8,
  position: 12,
  normal: 6,
  geometricNormal: 6,
  albedo: 6,
  emission: 6,
  direct: 6,
  indirect: 6,
  objects: 48,
  materials: 48,
  samples: 4,
  noise: 2,
  lightGroups: 6,
  motion: 8,
  leftOut: 2,
};
const FLOAT_BYTES = 16;
/** R, G, B, A and the picture as traced. */
const LIGHT_CHANNELS = 7;
const MOST_LIGHT_GROUPS = 8;

const lightLayers = ({ lightGroups }: Pick<Profile, 'lightGroups'>): number =>
  lightGroups === 'lights' ? MOST_LIGHTS_APART : (lightGroups?.length ?? MOST_LIGHT_GROUPS);

/**
 * The most that a cell's files take, bytes: as if nothing could be packed, which noise nearly cannot.
 * @param pixels of the picture
 */
export function mostFileBytes(
  profile: Pick<Profile, 'files' | 'aovs' | 'floatAovs' | 'lightGroups'>,
  pixels: number,
  first: boolean,
): number {
  const { files } = profile;
  let perPixel = 0;
  if (files.exr && (first || files.exr.perCell)) {
    perPixel += LIGHT_CHANNELS * (files.exr.type === 'float' ? 4 : 2);
    for (const aov of profile.aovs) {
      const layers = aov === 'lightGroups' ? lightLayers(profile) : 1;
      perPixel += layers * (profile.floatAovs.includes(aov) ? Math.max(FLOAT_BYTES, AOV_BYTES[aov]) : AOV_BYTES[aov]);
    }
  }
  if (files.png) perPixel += (files.png / 8) * 3;
  if (files.tiff) perPixel += files.tiff === 'float' ? 12 : 6;
  if (files.jpeg) perPixel += 1.5;
  if (files.webp) perPixel += 1;
  return Math.ceil(perPixel * pixels) + 400_000;
}
