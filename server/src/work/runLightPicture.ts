// The light of a finished picture by group, or light by light, out of its OpenEXR files and as large as a screen.
import { writeFile } from 'node:fs/promises';
import { AppError } from '@variscen/contract';
import {
  type ExrAbout,
  type ExrLayers,
  LIGHTS_ATTRIBUTE,
  packLightPicture,
  readExrAbout,
  readExrLayers,
} from '@variscen/core/image';
import { withExr } from '../files/exrSource.ts';
import type { LightPictureTask } from './tasks.ts';

const COLOURS = ['R', 'G', 'B'];
const LIGHT = /^light\.(.+)\.[RGB]$/;

/** So many numbers are sent at most: of many lights a smaller picture. */
const MOST_VALUES = 2 ** 24;

export async function runLightPicture(t: LightPictureTask): Promise<{ readonly bytes: number }> {
  const about = await withExr(t.groups ?? t.picture, readExrAbout);
  const names = [...new Set(about.channels.flatMap((name) => LIGHT.exec(name)?.[1] ?? []))].sort();
  if (!names.length)
    throw new AppError(
      'INVALID',
      'This picture has no light groups: its lights were all in one.',
      'Put lights into several groups, or keep each light apart, and render with a profile whose AOVs have light groups.',
    );
  const mostPixels = MOST_VALUES / ((names.length + 2) * COLOURS.length);
  const mostWidthPx = Math.min(t.mostWidthPx, Math.floor(Math.sqrt((mostPixels * about.widthPx) / about.heightPx)));
  const isOfPicture = (name: string) => name === 'A' || COLOURS.includes(name);
  const picture = await layersOf(t.picture, (name) => isOfPicture(name) || LIGHT.test(name), mostWidthPx);
  const apart = t.groups === null ? picture : await layersOf(t.groups, (name) => LIGHT.test(name), mostWidthPx);
  const light = names.map((name) => interleaved(apart, `light.${name}.`));
  const rest = interleaved(picture, '');
  for (const plane of light) for (let i = 0; i < rest.length; i++) rest[i]! -= plane[i]!;
  // halves are rounded: what is in no group is not less than nothing
  for (let i = 0; i < rest.length; i++) rest[i] = Math.max(0, rest[i]!);
  const { widthPx, heightPx } = picture;
  const targets = targetsIn(about);
  const packed = packLightPicture({
    widthPx,
    heightPx,
    groups: targets ? names.map((name) => targets.get(name) ?? name) : names,
    by: targets ? 'target' : 'group',
    rest,
    light,
    coverage: picture.channels.get('A') ?? new Float32Array(widthPx * heightPx).fill(1),
  });
  await writeFile(t.file, packed);
  return { bytes: packed.length };
}

const layersOf = (path: string, isWanted: (name: string) => boolean, mostWidthPx: number): Promise<ExrLayers> =>
  withExr(path, (source) => readExrLayers(source, isWanted, mostWidthPx));

/** By layer the source whose light it is; undefined where layers are light groups. */
function targetsIn({ texts }: ExrAbout): ReadonlyMap<string, string> | undefined {
  const text = texts.get(LIGHTS_ATTRIBUTE);
  return text === undefined ? undefined : new Map(Object.entries(JSON.parse(text) as Record<string, string>));
}

/** r, g, b a pixel of a layer. */
function interleaved({ channels, widthPx, heightPx }: ExrLayers, prefix: string): Float32Array {
  const out = new Float32Array(widthPx * heightPx * 3);
  COLOURS.forEach((colour, k) => {
    const plane = channels.get(`${prefix}${colour}`);
    for (let i = 0; plane && i < plane.length; i++) out[i * 3 + k] = plane[i]!;
  });
  return out;
}
