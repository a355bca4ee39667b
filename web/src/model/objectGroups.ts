// By what many objects can be picked at once: named selections, how large they are, what they wear in a look, what they
// stand in. Pure.
import { type ResolvedState, objectTarget } from '@variscen/core/looks';
import { type SceneDocument, axisScales, placements } from '@variscen/core/scene';

export const GROUP_KINDS = ['Named selections', 'Sizes', 'Materials', 'Groups'] as const;
export type GroupKind = (typeof GROUP_KINDS)[number];
export interface ObjectGroup {
  /** Tells groups of all kinds apart. */
  readonly id: string;
  readonly kind: GroupKind;
  readonly name: string;
  /** Nodes. */
  readonly objects: ReadonlySet<number>;
}
interface NamedSelection {
  readonly name: string;
  readonly paths: readonly string[];
}

/** Those that hold objects, kind by kind; selections and groups with all that is in what they name. */
export function objectGroups(
  document: SceneDocument,
  state: ResolvedState,
  selections: readonly NamedSelection[],
): ObjectGroup[] {
  const named = selections.map(({ name, paths }) => ({ name, objects: within(document, new Set(paths)) }));
  const kinds: readonly (readonly [GroupKind, readonly { name: string; objects: ReadonlySet<number> }[]])[] = [
    ['Named selections', named],
    ['Sizes', bySize(document)],
    ['Materials', byMaterial(document, state)],
    ['Groups', byGroup(document)],
  ];
  return kinds.flatMap(([kind, groups]) =>
    groups.filter((g) => g.objects.size > 0).map((g) => ({ id: `${kind} ${g.name}`, kind, ...g })),
  );
}

/** Objects that are named, or stand in something that is. Nodes come after what they stand in. */
function within({ nodes }: SceneDocument, paths: ReadonlySet<string>): Set<number> {
  const inside: boolean[] = [];
  const objects = new Set<number>();
  for (const [i, n] of nodes.entries()) {
    inside.push(paths.has(n.path) || inside[n.parent] === true);
    if (inside[i] && n.parts) objects.add(i);
  }
  return objects;
}

/** Longest sides, metres; each class ends where the next begins. */
const SIZES = [
  { name: 'Under 1 cm', endsM: 0.01 },
  { name: '1 to 10 cm', endsM: 0.1 },
  { name: '10 cm to 1 m', endsM: 1 },
  { name: '1 to 10 m', endsM: 10 },
  { name: 'Over 10 m', endsM: Infinity },
] as const;
/** As they stand in the scene file: by the longest side of the longest part, along its own axes. */
function bySize(document: SceneDocument) {
  const placed = placements(document);
  const classes = SIZES.map(({ name }) => ({ name: name as string, objects: new Set<number>() }));
  for (const [i, { parts }] of document.nodes.entries()) {
    if (!parts) continue;
    const scale = axisScales(placed[i]!);
    const sidesM = parts.flatMap((p) => {
      const { min, max } = document.meshes[p.mesh]!;
      return scale.map((s, k) => (max[k]! - min[k]!) * s);
    });
    const sizeM = Math.max(0, ...sidesM);
    classes[SIZES.findIndex((s) => sizeM < s.endsM)]?.objects.add(i);
  }
  return classes;
}

function byMaterial(document: SceneDocument, state: ResolvedState) {
  const worn = new Map<string, Set<number>>();
  for (const [i, n] of document.nodes.entries()) {
    if (!n.parts) continue;
    const other = state.get(objectTarget(n.path), 'object.material');
    const names = typeof other === 'string' ? [other] : n.parts.map((p) => document.materials[p.material]!.name);
    for (const name of names) {
      const objects = worn.get(name);
      if (objects) objects.add(i);
      else worn.set(name, new Set([i]));
    }
  }
  return inOrder([...worn].map(([name, objects]) => ({ name, objects })));
}

/** Of each thing that others stand in, those at any depth. */
function byGroup({ nodes }: SceneDocument) {
  const groups = new Map<number, Set<number>>();
  for (const [i, n] of nodes.entries()) {
    if (!n.parts) continue;
    for (let at = n.parent; at >= 0; at = nodes[at]!.parent) {
      const objects = groups.get(at);
      if (objects) objects.add(i);
      else groups.set(at, new Set([i]));
    }
  }
  return inOrder([...groups].map(([at, objects]) => ({ name: nodes[at]!.path, objects })));
}

const names = new Intl.Collator('en', { numeric: true });
const inOrder = <T extends { readonly name: string }>(groups: T[]): T[] =>
  groups.sort((a, b) => names.compare(a.name, b.name));
