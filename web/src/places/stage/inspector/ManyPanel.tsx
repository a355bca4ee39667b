import type { Project } from '@variscen/contract';
import {
  type Property,
  type ResolvedState,
  type SceneIndex,
  type Value,
  lightTarget,
  objectTarget,
  parseTarget,
  propertiesFor,
  sameValue,
  unitOf,
} from '@variscen/core/looks';
import { placedTriangles } from '@variscen/core/scene';
import { useMemo } from 'react';
import { count, plural } from '../../../ui/format.ts';
import { LightActions } from '../lights/LightActions.tsx';
import { LightsTogether } from '../lights/LightsTogether.tsx';
import { CopyPaste } from './CopyPaste.tsx';
import styles from './Inspector.module.css';
import { PropertyRow } from './PropertyRow.tsx';
import { ValueEditor } from './ValueEditor.tsx';
import type { Inspected } from './inspected.ts';

/**
 * Several things at once: what is the same in all shows its value, and what is set is set in all of them, as one edit.
 */
export function ManyPanel({ index, state, nodes, edit, ...p }: Inspected) {
  const d = index.document;
  const groups = useMemo(() => {
    const objects = nodes
      .filter((n) => d.nodes[n]!.parts || d.nodes[n]!.light === undefined)
      .map((n) => objectTarget(d.nodes[n]!.path));
    const lights = nodes.filter((n) => d.nodes[n]!.light !== undefined).map((n) => lightTarget(d.nodes[n]!.path));
    return [
      { title: plural(lights.length, 'light'), targets: lights },
      { title: plural(objects.length, 'object'), targets: objects },
    ]
      .filter((g) => g.targets.length)
      .map((g) => ({ ...g, rows: propertiesOfAll(index, g.targets) }));
  }, [index, d, nodes]);
  const triangles = useMemo(() => placedTriangles({ ...d, nodes: nodes.map((n) => d.nodes[n]!) }), [d, nodes]);
  return (
    <>
      <div className={styles.copyPasteFrame}>
        <h3 className={styles.label}>{count(nodes.length)} selected</h3>
        <CopyPaste
          {...p}
          nodes={nodes}
          edit={edit}
          index={index}
          state={state}
          targets={groups.flatMap((g) => g.targets)}
          from={`${count(nodes.length)} objects`}
        />
      </div>
      <div className={`dim ${styles.node}`}>
        {count(triangles)} triangles. What you set here is set for all of them.
      </div>
      {groups.map((g) => (
        <section key={g.title}>
          <h4>{g.title}</h4>
          {g.targets[0]!.startsWith('light:') && (
            <ManyLights
              key={g.targets.join()}
              index={index}
              state={state}
              lights={p.lights}
              paths={g.targets.map((t) => parseTarget(t)!.name)}
              record={p.record}
            />
          )}
          {g.rows.map(({ property, base }) => (
            <ManyRow
              key={property.id}
              project={p.project}
              index={index}
              state={state}
              property={property}
              base={base}
              targets={g.targets}
              title={g.title}
              edit={edit}
            />
          ))}
        </section>
      ))}
    </>
  );
}
/** What can be done to lights together. */
function ManyLights(p: Parameters<typeof LightsTogether>[0]) {
  return (
    <>
      <LightActions state={p.state} lights={p.lights} paths={p.paths} />
      <LightsTogether {...p} />
      <hr className="hair" />
    </>
  );
}

interface Shared {
  readonly property: Property;
  /** What the scene has in all of them; null: not the same. */
  readonly base: Value | null;
}
/** Properties that every one of them has. */
function propertiesOfAll(index: SceneIndex, targets: readonly string[]): Shared[] {
  const names = targets.map((t) => parseTarget(t)!.name);
  return propertiesFor(index, targets[0]!).flatMap((property): Shared[] => {
    if (property.unlisted) return [];
    const first = property.base(index, names[0]!)!;
    let same = true;
    for (const name of names) {
      const own = property.base(index, name);
      if (own === undefined) return [];
      same &&= sameValue(own, first);
    }
    return [{ property, base: same ? first : null }];
  });
}
function ManyRow({
  project,
  index,
  state,
  property,
  base,
  targets,
  title,
  edit,
}: Shared & {
  project: Project;
  index: SceneIndex;
  state: ResolvedState;
  targets: readonly string[];
  title: string;
  edit: Inspected['edit'];
}) {
  // of thousands of things nothing is asked one by one where no look says anything of the property
  const value = useMemo(() => {
    const own = new Map<string, Value>();
    for (const v of state.values.values()) if (v.property === property) own.set(v.target, v.value);
    if (!own.size) return base;
    const valueOf = (t: string) => own.get(t) ?? base ?? property.base(index, parseTarget(t)!.name);
    const first = valueOf(targets[0]!);
    return targets.every((t) => sameValue(valueOf(t), first)) ? (first ?? null) : null;
  }, [index, state, targets, property, base]);
  const set = (v: Value) => edit(targets, property.id, v);
  return (
    <PropertyRow
      property={property}
      value={value}
      onChange={set}
      editor={
        <ValueEditor
          project={project}
          property={property}
          index={index}
          value={value}
          unit={unitOf(property, index, targets[0]!)}
          label={`${title}, ${property.label}`}
          onChange={set}
        />
      }
    />
  );
}
