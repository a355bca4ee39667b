// What rays of a whole scene's picture met, by object: as it was measured, and as it is put together from several
// looks.
import type { SceneDocument } from '../scene/index.ts';
import type { Meeting } from './meetings.ts';
import { type PiecesEvidence, joinedPieces } from './pieces.ts';

export interface ObjectEvidence {
  /** Of its node. */
  readonly path: string;
  /** How often rays met it in each way. */
  readonly times: Readonly<Record<Meeting, number>>;
  /** Of all that the picture sees, so much met it: directly, in reflections, through glass, in bounced light. */
  readonly sight: Readonly<Record<'seen' | 'reflected' | 'refracted' | 'bounced', number>>;
  /** Of the picture's light so much came from it, its own or another's; it kept away; and it gave as a lamp. */
  readonly brought: number;
  readonly shadowed: number;
  readonly lit: number;
  /** How bright it is where it was met. */
  readonly nits: number;
  /**
   * What detail of it is told apart by rays that do not come from the camera itself, and by its shadow, metres; null:
   * by none.
   */
  readonly detailM: number | null;
  /** Names of the objects in which most of it is reflected, and through which most of it is seen; absent: many. */
  readonly mirror?: string | undefined;
  readonly glass?: string | undefined;
}

export interface CullEvidence {
  readonly widthPx: number;
  readonly heightPx: number;
  readonly samples: number;
  readonly lightPaths: number;
  readonly rays: number;
  readonly seconds: number;
  /** Mean luminance of the picture. */
  readonly meanNits: number;
  /** Objects that some ray met, in scene order. */
  readonly objects: readonly ObjectEvidence[];
  /** Paths of objects that were shown, and that no ray met. */
  readonly unmet: readonly string[];
  /**
   * Of a sequence, paths of objects that come into the frame between the frames that were measured, and at none of
   * them.
   */
  readonly entering: readonly string[];
  readonly textures: readonly TextureEvidence[];
  /** Of meshes that are shown; undefined where different engines measured. */
  readonly pieces?: PiecesEvidence | undefined;
  /** Of a sequence some frames alone were measured. */
  readonly isOfSomeFrames?: boolean | undefined;
}
/** Of an image that the look shows somewhere. */
export interface TextureEvidence {
  readonly image: string;
  /** The finest of its levels that may have been looked up, 0 that of the whole image. */
  readonly finest: number;
}

interface Size {
  readonly widthPx: number;
  readonly heightPx: number;
}
/** So many times a picture is doubled until it is as large as another, rounded up. */
export const finerThan = (a: Size, b: Size): number =>
  Math.ceil(Math.log2(Math.max(b.widthPx / a.widthPx, b.heightPx / a.heightPx, 1)));

/** As the engine's levels: a picture so many times as large looks at so much finer ones. */
export function neededLevels(e: CullEvidence, size: Size): Map<string, number> {
  const finer = finerThan(e, size);
  return new Map(e.textures.map(({ image, finest }) => [image, Math.max(0, finest - finer)]));
}
/**
 * At most so many bytes of a scene's textures are looked up in a picture of this size: each from the level that is
 * needed on. Of those of which nothing is known all of it counts.
 */
export function textureBytesLookedUp(
  { textures }: Pick<SceneDocument, 'textures'>,
  e: CullEvidence,
  size: Size,
): number {
  const needed = neededLevels(e, size);
  return textures.reduce(
    (sum, t) => sum + texelsFrom(t.width, t.height, needed.get(t.blob) ?? 0) * (t.bits === 16 ? 8 : 4),
    0,
  );
}
/** Texels of a level and all coarser ones: each half as large, rounded down, at least 1. */
function texelsFrom(width: number, height: number, level: number): number {
  let texels = 0;
  for (let at = level; ; at++) {
    const [w, h] = [Math.max(1, width >> at), Math.max(1, height >> at)];
    texels += w * h;
    if (w === 1 && h === 1) return texels;
  }
}
/** Of each image the finest. */
export function finestOf(all: readonly TextureEvidence[]): TextureEvidence[] {
  const finest = new Map<string, number>();
  for (const t of all) finest.set(t.image, Math.min(finest.get(t.image) ?? Infinity, t.finest));
  return [...finest].map(([image, level]) => ({ image, finest: level }));
}

/**
 * With what whole renders tell beside it: objects that no ray of the measurement met, and rays of a render may have
 * met, gave less than one of the measurement's light paths shows.
 * @param mayBeMet by a render of the same picture, by path
 */
export function sharpened(e: CullEvidence, mayBeMet: (path: string) => boolean): CullEvidence {
  const late = e.unmet.filter(mayBeMet);
  if (!late.length) return e;
  const objects = late.map((path): ObjectEvidence => ({
    path,
    times: NEVER,
    sight: { seen: 0, reflected: 0, refracted: 0, bounced: 0 },
    brought: 1 / e.lightPaths,
    shadowed: 0,
    lit: 0,
    nits: 0,
    detailM: null,
  }));
  const isLate = new Set(late);
  return { ...e, objects: [...e.objects, ...objects], unmet: e.unmet.filter((path) => !isLate.has(path)) };
}
const NEVER: ObjectEvidence['times'] = { seen: 0, reflected: 0, refracted: 0, bounced: 0, shadowed: 0, lit: 0 };
/** Met by a render alone. */
export const isLatelyMet = ({ times }: Pick<ObjectEvidence, 'times'>): boolean =>
  Object.values(times).every((n) => n === 0);

/** How much a picture may change without an object: what it brought, and what it kept away. */
export const costShare = ({ brought, shadowed }: Pick<ObjectEvidence, 'brought' | 'shadowed'>): number =>
  brought + shadowed;

/** Of several looks, for each object the most that any of them says. */
export function mergeEvidence(all: readonly CullEvidence[]): CullEvidence {
  const [first, ...others] = all;
  if (!first) throw new Error('There is no evidence to put together.');
  if (!others.length) return first;
  const objects = new Map<string, ObjectEvidence>();
  for (const { objects: own } of all)
    for (const o of own) {
      const known = objects.get(o.path);
      objects.set(o.path, known ? mostOf(known, o) : o);
    }
  const sum = (of: (e: CullEvidence) => number) => all.reduce((n, e) => n + of(e), 0);
  return {
    ...first,
    lightPaths: sum((e) => e.lightPaths),
    rays: sum((e) => e.rays),
    seconds: sum((e) => e.seconds),
    meanNits: Math.max(...all.map((e) => e.meanNits)),
    objects: [...objects.values()],
    unmet: [...new Set(all.flatMap((e) => e.unmet))].filter((path) => !objects.has(path)),
    entering: [...new Set(all.flatMap((e) => e.entering))],
    textures: finestOf(all.flatMap((e) => e.textures)),
    pieces: joinedPieces(all.map((e) => e.pieces)),
    isOfSomeFrames: all.some((e) => e.isOfSomeFrames === true),
  };
}
const { max } = Math;
const mostOf = (a: ObjectEvidence, b: ObjectEvidence): ObjectEvidence => ({
  path: a.path,
  times: {
    seen: a.times.seen + b.times.seen,
    reflected: a.times.reflected + b.times.reflected,
    refracted: a.times.refracted + b.times.refracted,
    bounced: a.times.bounced + b.times.bounced,
    shadowed: a.times.shadowed + b.times.shadowed,
    lit: a.times.lit + b.times.lit,
  },
  sight: {
    seen: max(a.sight.seen, b.sight.seen),
    reflected: max(a.sight.reflected, b.sight.reflected),
    refracted: max(a.sight.refracted, b.sight.refracted),
    bounced: max(a.sight.bounced, b.sight.bounced),
  },
  brought: max(a.brought, b.brought),
  shadowed: max(a.shadowed, b.shadowed),
  lit: max(a.lit, b.lit),
  nits: max(a.nits, b.nits),
  detailM: a.detailM === null || b.detailM === null ? (a.detailM ?? b.detailM) : Math.min(a.detailM, b.detailM),
  mirror: a.sight.reflected >= b.sight.reflected ? a.mirror : b.mirror,
  glass: a.sight.refracted >= b.sight.refracted ? a.glass : b.glass,
});
