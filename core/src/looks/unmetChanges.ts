// Whether what was changed since a picture was rendered can show in it, by what its rays met. What they never came near
// may be hidden or wear something else: no ray would have gone another way. What moves, is shown again, or gives light
// could come into their way or change light anywhere, so it counts whatever was met. Where in doubt a change counts.
import type { SceneIndex, Value } from './property.ts';
import { type Inputs, type ValueChange, cameraText, changedValues } from './fingerprint.ts';
import type { ResolvedState } from './resolve.ts';
import { parseTarget } from './targets.ts';

/** Of objects: they only ever take something out of rays' way. */
const TAKES_AWAY: ReadonlySet<string> = new Set([
  'object.shown',
  'object.seenByCamera',
  'object.seenInReflections',
  'object.castsShadow',
]);
/** Of materials: by these light comes, or surfaces move. */
const GLOWS: readonly string[] = ['material.emissionColor', 'material.emissionStrength', 'material.emissionMap'];
const MOVES_SURFACES: readonly string[] = ['material.displacementMap', 'material.displacement'];
const COUNTS_ALWAYS: ReadonlySet<string> = new Set([...GLOWS, ...MOVES_SURFACES, 'material.lightGroup']);

/**
 * @param state of now @param isMet by number of a node of the scene
 * @returns whether all that differs is of things that no ray met, and could not have been met by it either
 */
export function changesOnlyUnmet(
  was: Inputs,
  now: Inputs,
  state: ResolvedState,
  isMet: (node: number) => boolean,
): boolean {
  if (was.scene !== now.scene || cameraText(was.camera) !== cameraText(now.camera)) return false;
  const values = [...was.values, ...now.values];
  // a copy is as its original, unless it says otherwise
  if (values.some(([target, property]) => target.includes('#') || property === 'object.copyLayout')) return false;
  const unmet = new Unmet(state.scene, values, isMet);
  return changedValues(was, now, state).every((change) => unmet.holds(change));
}

class Unmet {
  /** Materials that give light or displace surfaces, before or now. */
  private readonly strong: ReadonlySet<string>;
  /** Of each node what it wears by some value. */
  private readonly assigned = new Map<number, string[]>();

  constructor(
    private readonly scene: SceneIndex,
    values: Inputs['values'],
    private readonly isMet: (node: number) => boolean,
  ) {
    const strong = new Set(
      scene.document.materials
        .filter((m) => m.emissionStrength > 0 && Math.max(...m.emissionColor) > 0)
        .map((m) => m.name),
    );
    for (const [target, property, value] of values) {
      const { kind, name } = parseTarget(target)!;
      if (kind === 'material' && COUNTS_ALWAYS.has(property)) strong.add(name);
      if (property === 'object.material') this.assign(name, value);
    }
    this.strong = strong;
  }
  private assign(path: string, value: Value): void {
    const node = this.scene.nodes.get(path);
    if (node !== undefined) this.assigned.set(node, [...(this.assigned.get(node) ?? []), String(value)]);
  }

  holds({ target, property, is }: ValueChange): boolean {
    const { kind, name } = parseTarget(target)!;
    if (kind === 'material') return !COUNTS_ALWAYS.has(property) && this.isOfUnmet(name);
    if (kind !== 'object') return false;
    const node = this.scene.nodes.get(name);
    if (node === undefined) return false;
    if (TAKES_AWAY.has(property)) return is === false && this.isUnmetWithin(node);
    return property === 'object.material' && !this.isMet(node) && this.isQuiet(node);
  }
  /** Nothing that it wears, or wore, gives light or displaces it. */
  private isQuiet(node: number): boolean {
    return !this.wornBy(node).some((material) => this.strong.has(material));
  }
  private wornBy(node: number): string[] {
    const { nodes, materials } = this.scene.document;
    const own = nodes[node]!.parts?.map((p) => materials[p.material]!.name) ?? [];
    return [...own, ...(this.assigned.get(node) ?? [])];
  }
  /** All that wear it, in the scene or by some value. */
  private isOfUnmet(material: string): boolean {
    if (this.strong.has(material)) return false;
    return this.scene.document.nodes.every((_, i) => !this.isMet(i) || !this.wornBy(i).includes(material));
  }
  /** The node and all in it, none of which gives light. */
  private isUnmetWithin(node: number): boolean {
    const { light, parts } = this.scene.document.nodes[node]!;
    if (light !== undefined || (parts && this.isMet(node)) || !this.isQuiet(node)) return false;
    return (childrenOf(this.scene).get(node) ?? []).every((child) => this.isUnmetWithin(child));
  }
}

const children = new WeakMap<SceneIndex, ReadonlyMap<number, readonly number[]>>();
function childrenOf(scene: SceneIndex): ReadonlyMap<number, readonly number[]> {
  const known = children.get(scene);
  if (known) return known;
  const made = new Map<number, number[]>();
  scene.document.nodes.forEach(({ parent }, i) => {
    const siblings = made.get(parent);
    if (siblings) siblings.push(i);
    else made.set(parent, [i]);
  });
  children.set(scene, made);
  return made;
}
