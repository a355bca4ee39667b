// The scene of a project with the lights that its looks add, all of them: each can be selected, whether the look that
// is shown has it or not.
import { type Change, SceneIndex, addedPaths, parseAdded, withLights } from '@variscen/core/looks';
import { type Matrix, type SceneDocument, sceneBox } from '@variscen/core/scene';

interface Changes {
  readonly changes: readonly unknown[];
}
interface Recorded {
  readonly base: readonly unknown[];
  readonly options: readonly Changes[];
  readonly patches: readonly Changes[];
  readonly pending: readonly Changes[];
}

/** Paths of the lights that anything recorded or pending adds, sorted. */
export function lightsOf({ base, options, patches, pending }: Recorded): string[] {
  const lists = [base, ...[...options, ...patches, ...pending].map((x) => x.changes)];
  return addedPaths(lists.flat() as Change[]);
}

export function indexWithLights(own: SceneIndex, paths: readonly string[]): SceneIndex {
  if (!paths.length) return own;
  const document = withLights(own.document, paths);
  if (!paths.some((path) => parseAdded(path)!.type === 'sun')) return new SceneIndex(document, own);
  const matrix = aboveAll(own.document);
  const nodes = document.nodes.map((n) => (n.added && parseAdded(n.path)!.type === 'sun' ? { ...n, matrix } : n));
  return new SceneIndex({ ...document, nodes }, own);
}

/** A sun stands nowhere; its figure does: above the scene, where it can be taken hold of. */
const OVER = 0.25;
const above = new WeakMap<SceneDocument, Matrix>();
function aboveAll(document: SceneDocument): Matrix {
  const known = above.get(document);
  if (known) return known;
  const { min, max } = sceneBox(document) ?? { min: [0, 0, 0], max: [0, 1, 0] };
  const [x, z] = [(min[0] + max[0]) / 2, (min[2] + max[2]) / 2];
  const y = max[1] + (max[1] - min[1]) * OVER;
  const matrix: Matrix = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, y, z, 1];
  above.set(document, matrix);
  return matrix;
}
