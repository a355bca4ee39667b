// Options on their way to another project: as a file of our own, and matched onto a scene whose things may be called
// otherwise.
import { parseSky } from '../environment/index.ts';
import { parseLut } from '../image/index.ts';
import type { Facet } from './facets.ts';
import { parseImage } from './images.ts';
import { type SceneIndex, UNAIMED, type Value, propertyOf } from './properties.ts';
import type { Change } from './resolve.ts';
import { isSingle, materialTarget, objectTarget, originalPath, parseTarget, targetLabel } from './targets.ts';

export const LOOKS_FORMAT = 'variscen.looks';
export const LOOKS_VERSION = 1;
export interface TravellingOption {
  readonly facet: Facet;
  readonly name: string;
  readonly notes: string;
  readonly changes: readonly Change[];
}
export interface LooksFile {
  readonly format: typeof LOOKS_FORMAT;
  readonly version: typeof LOOKS_VERSION;
  /** Where they come from, for a person to read. */
  readonly from: string;
  readonly options: readonly TravellingOption[];
  /**
   * What each object wore where the options come from, by its target: it is found by that where its name is not there.
   */
  readonly wears: Readonly<Record<string, string>>;
}

/** @param scene where they were recorded; undefined where it is not known any more */
export function packLooks(
  from: string,
  options: readonly TravellingOption[],
  scene: SceneIndex | undefined,
): LooksFile {
  const wears: Record<string, string> = {};
  for (const o of options)
    for (const c of o.changes) {
      const t = parseTarget(c.target);
      const material = t?.kind === 'object' ? scene && propertyOf('object.material')!.base(scene, t.name) : undefined;
      if (typeof material === 'string') wears[c.target] = material;
    }
  return {
    format: LOOKS_FORMAT,
    version: LOOKS_VERSION,
    from,
    options: options.map(({ facet, name, notes, changes }) => ({
      facet,
      name,
      notes,
      changes: changes.map(({ target, property, value }) => ({ target, property, value })),
    })),
    wears,
  };
}

/**
 * path: the same path or name of material. name: the only one called so. material: the only one that wears the same.
 * single: the environment or the grade.
 */
export type FoundHow = 'path' | 'name' | 'material' | 'hand' | 'single';
export interface FoundThing {
  readonly target: string;
  readonly label: string;
  /** Changes of it, or that name it as a material to wear. */
  readonly changes: number;
  readonly to: string | null;
  readonly how: FoundHow | null;
  /** Several things could be meant: the first few. */
  readonly candidates: readonly string[];
}
export interface LooksMatch {
  readonly things: readonly FoundThing[];
  /** Maps, images and LUTs by name that the receiver does not have. */
  readonly missing: readonly string[];
}
export type ByHand = Readonly<Record<string, string | null>>;

const FEW = 12;
/** Letters and digits alone, so that “Kettle_large” is “kettle large”. */
const plain = (s: string): string =>
  s
    .normalize('NFKC')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim();

/** @param byHand target → target of the same kind; null: nothing. @param has whether the receiver has a content */
export function matchLooks(
  file: LooksFile,
  scene: SceneIndex,
  byHand: ByHand,
  has: (hash: string) => boolean,
): LooksMatch {
  const counts = new Map<string, number>();
  const missing = new Set<string>();
  const add = (t: string) => counts.set(t, (counts.get(t) ?? 0) + 1);
  for (const o of file.options)
    for (const c of o.changes) {
      add(mainTarget(c.target));
      const named = namedByValue(c);
      if (named !== undefined) add(mainTarget(named));
      for (const parsed of [parseSky(c.value), parseLut(c.value)])
        if (parsed && !has(parsed.hash)) missing.add(parsed.name);
      const image = parseImage(c.value);
      if (image && !has(image.blob)) missing.add(image.name);
    }
  const d = scene.document;
  const byName = new Map<string, string[]>();
  const worn = new Map<string, string[]>();
  const push = (m: Map<string, string[]>, k: string, v: string) => {
    const l = m.get(k);
    if (l) l.push(v);
    else m.set(k, [v]);
  };
  for (const n of d.nodes) {
    const kinds = [
      ...(n.light !== undefined ? ['light'] : []),
      ...(n.parts || n.light === undefined ? ['object'] : []),
    ];
    for (const kind of kinds) push(byName, `${kind} ${plain(n.name)}`, `${kind}:${n.path}`);
    if (n.parts?.length === 1) push(worn, d.materials[n.parts[0]!.material]!.name, `object:${n.path}`);
  }
  for (const m of d.materials) push(byName, `material ${plain(m.name)}`, materialTarget(m.name));
  return {
    missing: [...missing],
    things: [...counts].map(([target, changes]): FoundThing => {
      const t = parseTarget(target);
      const label = targetLabel(target);
      const thing = (to: string | null, how: FoundHow | null, candidates: readonly string[] = []): FoundThing => ({
        target,
        label,
        changes,
        to,
        how,
        candidates: candidates.slice(0, FEW),
      });
      if (!t) return thing(null, null);
      if (isSingle(t.kind)) return thing(target, 'single');
      const hand = byHand[target];
      if (hand !== undefined)
        return hand === null || exists(scene, hand) ? thing(hand, hand === null ? null : 'hand') : thing(null, null);
      if (exists(scene, target)) return thing(target, 'path');
      const called = byName.get(`${t.kind} ${plain(label)}`) ?? [];
      const near = closest(called, t.name);
      if (near) return thing(near, 'name');
      const material = file.wears[target];
      const same = material === undefined ? [] : (worn.get(material) ?? []);
      if (called.length) return thing(null, null, called);
      return same.length === 1 ? thing(same[0]!, 'material') : thing(null, null, same);
    }),
  };
}

/** What a value names: a material to wear, a thing to be aimed at. */
function namedByValue({ property, value }: Change): string | undefined {
  if (typeof value !== 'string') return undefined;
  if (property === 'object.material') return materialTarget(value);
  const p = propertyOf(property);
  return p?.type === 'choice' && p.picks === 'object' && value !== UNAIMED ? objectTarget(value) : undefined;
}

/** What a change is about, for copies what they are copies of: both go together. */
const mainTarget = (target: string): string => {
  const t = parseTarget(target);
  return t && t.name ? `${t.kind}:${originalPath(t.name)}` : target;
};
function exists(scene: SceneIndex, target: string): boolean {
  const t = parseTarget(target);
  if (t?.kind === 'material') return scene.materials.has(t.name);
  if (t?.kind === 'light') return scene.light(t.name) !== undefined;
  if (t?.kind === 'object') return scene.nodes.has(t.name);
  return t !== undefined;
}
/** The one of several that shares most of the path's end; undefined where two share as much. */
function closest(candidates: readonly string[], path: string): string | undefined {
  if (candidates.length < 2) return candidates[0];
  const ends = path.split('/').reverse().map(plain);
  const shared = (t: string) => {
    const own = t
      .slice(t.indexOf(':') + 1)
      .split('/')
      .reverse()
      .map(plain);
    let k = 0;
    while (k < own.length && own[k] === ends[k]) k++;
    return k;
  };
  const [first, second] = candidates.map((t) => ({ t, k: shared(t) })).sort((a, b) => b.k - a.k);
  return first!.k > second!.k ? first!.t : undefined;
}

/**
 * The options as they are for the scene that they were matched onto. What has no match is left out, or goes along as it
 * is and waits for its thing. Values that name a material or an object are matched like these themselves.
 */
export function bringLooks(
  file: LooksFile,
  match: LooksMatch,
  { only, keepUnmatched }: { readonly only?: readonly number[] | undefined; readonly keepUnmatched: boolean },
): { readonly options: readonly TravellingOption[]; readonly left: number } {
  const to = new Map(match.things.map((t) => [t.target, t.to]));
  let left = 0;
  const options = file.options
    .filter((_, i) => !only || only.includes(i))
    .map((o): TravellingOption => ({
      ...o,
      changes: o.changes.flatMap((c): Change[] => {
        const main = mainTarget(c.target);
        const found = to.get(main) ?? null;
        const named = namedByValue(c);
        const namedNow = named === undefined ? undefined : (to.get(mainTarget(named)) ?? null);
        if (found === null || namedNow === null) {
          if (keepUnmatched) return [c];
          left++;
          return [];
        }
        const value: Value =
          namedNow === undefined ? c.value : parseTarget(namedNow + named!.slice(mainTarget(named!).length))!.name;
        return [
          { target: main === c.target ? found : found + c.target.slice(main.length), property: c.property, value },
        ];
      }),
    }));
  return { options, left };
}
