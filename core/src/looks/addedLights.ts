// Lights that looks add to a scene. Such a light has a path of its own, “+spot/Key”: its type and what a person calls
// it. Everything else of it is values of looks, against what a light of its type is when it is new; it stands only
// where a layer says that it does (“light.added”), so that an option brings its own lights.
import { IDENTITY, type SceneDocument, type SceneNode } from '../scene/index.ts';
import { newLight } from './newLights.ts';
import type { SceneIndex } from './property.ts';
import type { Change, ResolvedState } from './resolve.ts';
import { ADDED, isAddedPath, lightTarget, parseAdded, parseTarget } from './targets.ts';

/**
 * Paths of all that some layer says stands, sorted: the order of lights in a scene, whatever order they were made in.
 */
export function addedPaths(changes: Iterable<Change>): string[] {
  const paths = new Set<string>();
  for (const { target, property, value } of changes) {
    if (property !== ADDED || value !== true) continue;
    const t = parseTarget(target);
    if (t && isAddedPath(t.name)) paths.add(t.name);
  }
  return [...paths].sort();
}

/** Whether a light that looks add stands in this one; true for those of the scene. */
export const stands = (state: ResolvedState, path: string): boolean =>
  !isAddedPath(path) || state.get(lightTarget(path), ADDED) === true;

/**
 * The document with lights after its own nodes, each at the world's origin, looking along −Z. Paths that it has are
 * left as they are.
 */
export function withLights(document: SceneDocument, paths: readonly string[]): SceneDocument {
  const has = new Set<string>();
  for (const n of document.nodes) if (n.added) has.add(n.path);
  const missing = paths.filter((path) => !has.has(path));
  if (!missing.length) return document;
  const lights = [...document.lights];
  const nodes: SceneNode[] = [...document.nodes];
  for (const path of missing) {
    const { name } = parseAdded(path)!;
    const light = lights.push(newLight(path)!) - 1;
    nodes.push({ path, name, parent: -1, matrix: IDENTITY, light, added: true });
  }
  return { ...document, nodes, lights };
}

/** The document with the lights that a look adds. */
export function withAddedLights(document: SceneDocument, state: ResolvedState): SceneDocument {
  const paths: string[] = [];
  for (const v of state.values.values())
    if (v.property.id === ADDED && v.value === true) paths.push(parseTarget(v.target)!.name);
  return paths.length ? withLights(document, paths.sort()) : document;
}

const MOST_NAME = 100;
/**
 * A name that an added light may have, as a path tells it apart.
 * @returns undefined where nothing of it can be used
 */
export function addedName(name: string): string | undefined {
  const clean = name
    .toWellFormed()
    .replace(/[/\p{Cc}]+/gu, ' ')
    .replace(/#(\d+)/g, '$1')
    .replace(/\s+/g, ' ')
    .trim()
    .slice(0, MOST_NAME)
    .toWellFormed();
  return clean || undefined;
}

/** Names of all lights, those of the scene and those that looks add. */
export const lightNames = ({ document }: SceneIndex): Set<string> =>
  new Set(document.nodes.flatMap((n) => (n.light === undefined ? [] : [n.name])));

/** The name, or the name with the next number that is not taken. */
export function freeName(taken: ReadonlySet<string>, name: string): string {
  if (!taken.has(name)) return name;
  const stem = name.replace(/ \d+$/, '');
  let k = 2;
  while (taken.has(`${stem} ${k}`)) k++;
  return `${stem} ${k}`;
}
