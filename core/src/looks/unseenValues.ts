// Values that show in no picture of a state: what hidden things wear, what hidden lamps give, materials that nothing
// shown wears. A picture does not become old by them. Where in doubt a value counts.
import type { SceneIndex, Value } from './property.ts';
import { ADDED, isAddedPath, parseTarget } from './targets.ts';

/** A value that is in force. */
export interface ValueInForce {
  readonly target: string;
  readonly property: string;
  readonly value: Value;
}

/**
 * Of an object that is hidden: where it stands moves what comes apart beside it, so that its place goes on counting.
 */
const UNSEEN_OF_HIDDEN: ReadonlySet<string> = new Set([
  'object.material',
  'object.drawn',
  'object.seenByCamera',
  'object.seenInReflections',
  'object.castsShadow',
  'object.catcher',
]);

/** @returns whether a value shows in no picture, of a target as parseTarget() takes it apart */
export function unseenAmong(scene: SceneIndex, values: Iterable<ValueInForce>): (v: ValueInForce) => boolean {
  const hidden = new Set<string>();
  const assigned = new Map<string, string>();
  const standing = new Set<string>();
  for (const { target, property, value } of values) {
    if (property === ADDED && value === true) standing.add(target);
    // a copy is as its original, unless it says otherwise: with copies about, everything counts
    if (target.includes('#') || property === 'object.copyLayout') return () => false;
    const name = property.startsWith('object.') ? parseTarget(target)!.name : '';
    if (property === 'object.shown' && value === false) hidden.add(name);
    if (property === 'object.material' && typeof value === 'string') {
      if (value.includes('#')) return () => false;
      assigned.set(name, value);
    }
  }
  const isPlain = hidden.size === 0 && assigned.size === 0;
  const state = isPlain ? plainOf(scene) : new Shown(scene, hidden, assigned);
  return ({ target, property }) => {
    const { kind, name } = parseTarget(target)!;
    if (kind === 'material') return !state.worn.has(name);
    if (kind === 'light') return isAddedPath(name) ? !standing.has(target) : state.isHidden(name);
    return kind === 'object' && UNSEEN_OF_HIDDEN.has(property) && state.isHidden(name);
  };
}

const plain = new WeakMap<SceneIndex, Shown>();
/** With nothing hidden and nothing assigned. */
function plainOf(scene: SceneIndex): Shown {
  let known = plain.get(scene);
  if (!known) plain.set(scene, (known = new Shown(scene, new Set(), new Map())));
  return known;
}

/** What is shown, and which materials that wears. */
class Shown {
  readonly worn: ReadonlySet<string>;
  private readonly hiddenNodes: readonly boolean[];

  constructor(
    private readonly scene: SceneIndex,
    hidden: ReadonlySet<string>,
    assigned: ReadonlyMap<string, string>,
  ) {
    const { nodes, materials } = scene.document;
    const hiddenNodes: boolean[] = [];
    const worn = new Set<string>();
    for (const n of nodes) {
      const isHidden = (n.parent >= 0 && hiddenNodes[n.parent]!) || hidden.has(n.path);
      hiddenNodes.push(isHidden);
      if (isHidden || !n.parts) continue;
      for (const p of n.parts) worn.add(materials[p.material]!.name);
      const other = assigned.get(n.path);
      if (other !== undefined) worn.add(other);
    }
    this.hiddenNodes = hiddenNodes;
    this.worn = worn;
  }
  isHidden(path: string): boolean {
    const node = this.scene.nodes.get(path);
    return node !== undefined && this.hiddenNodes[node]!;
  }
}
