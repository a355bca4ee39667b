// The values of what is selected: each with its unit, where it comes from, and what it would be without.
import { Checkbox } from '@mantine/core';
import { IconChevronDown, IconChevronRight, IconClipboard, IconCopy } from '@tabler/icons-react';
import type { Project } from '@variscen/contract';
import {
  type Change,
  type Property,
  type ResolvedState,
  type ResolvedValue,
  type SceneIndex,
  type Value,
  materialTarget,
  optionsTouching,
  objectTarget,
  lightTarget,
  parseTarget,
  propertiesFor,
  sameValue,
  targetLabel,
  unitOf,
  valueText,
  valueWithout,
} from '@variscen/core/looks';
import { placedTriangles } from '@variscen/core/scene';
import { type ReactNode, useMemo, useState } from 'react';
import { say } from '../../../ui/notify.ts';
import { count, plural } from '../../../ui/format.ts';
import { FacetGlyph, facetOr } from '../../../ui/glyphs.tsx';
import { pasted, useClipboard, valuesOf } from '../../../model/clipboard.ts';
import { CopiesPanel } from './CopiesPanel.tsx';
import { copiedMaterials, nextCopy } from '../../../model/materialNames.ts';
import { ValueEditor } from './ValueEditor.tsx';
import { type Destination, isPending, recordedIn } from '../../../model/destinations.ts';
import styles from './Inspector.module.css';

interface Props {
  project: Project;
  index: SceneIndex | undefined;
  state: ResolvedState | undefined;
  selected: string | null;
  /** More than one: they are edited together. */
  nodes: readonly number[];
  destination: Destination;
  edit: (targets: readonly string[], property: string, value: Value) => void;
  record: (changes: readonly Change[]) => void;
  onDiscard: (target: string, property: string) => void;
  /** Takes a recorded value out of where it is recorded. */
  onClear: (layer: string, target: string, property: string) => void;
  onDestination: (id: string) => void;
  onSelect: (target: string) => void;
  onNodes: (nodes: readonly number[]) => void;
}

export function Inspector(p: Props) {
  const { index, state, selected } = p;
  const t = selected ? parseTarget(selected) : undefined;
  const node = t && index && (t.kind === 'object' || t.kind === 'light') ? index.node(t.name) : undefined;
  const [onlyChanged, setOnlyChanged] = useState(false);
  const body = () => {
    if (!index || !state) return null;
    if (p.nodes.length > 1) return <Many {...p} index={index} state={state} />;
    if (!selected && onlyChanged) return <Changed {...p} index={index} state={state} />;
    if (!selected || !t || (!node && (t.kind === 'object' || t.kind === 'light')))
      return (
        <div className={`empty ${styles.empty}`}>
          <p>Select an object in the view or the tree to see its values, or the environment or the grade.</p>
        </div>
      );
    const all = node
      ? [
          ...(node.light !== undefined ? [lightTarget(t.name)] : []),
          ...(node.parts || node.light === undefined ? [objectTarget(t.name)] : []),
          ...materialsOf(index, state, t.name).map(materialTarget),
        ]
      : [selected];
    const targets = onlyChanged
      ? all.filter((x) => propertiesFor(index, x).some((q) => state.provenance(x, q.id)))
      : all;
    const light = node?.light === undefined ? undefined : index.document.lights[node.light];
    return (
      <>
        <div className={styles.copyPasteFrame}>
          <h3 className={styles.label}>{index.label(selected)}</h3>
          <CopyPaste {...p} index={index} state={state} targets={all} from={targetLabel(selected)} />
        </div>
        <div className={`dim ${styles.node}`}>
          {node ? (
            [
              light &&
                `${{ sun: 'Sun', point: 'Point light', spot: 'Spot light', rectangle: 'Rectangle light', disc: 'Disc light' }[light.type]}`,
              node.parts && `${count(placedTriangles({ ...index.document, nodes: [node] }))} triangles`,
              node.path.includes('/') && node.path.slice(0, node.path.lastIndexOf('/')),
            ]
              .filter(Boolean)
              .join(' · ')
          ) : (
            <>
              {t.kind === 'material' && <MaterialUse {...p} index={index} state={state} name={t.name} />}
              {t.kind === 'scene' && 'Every object that neither says otherwise itself nor in its group'}
              {t.kind !== 'material' && t.kind !== 'scene' && 'The whole scene'}
            </>
          )}
        </div>
        {targets.map((target) => (
          <Section
            key={target}
            {...p}
            index={index}
            state={state}
            target={target}
            titled={target.startsWith('material:')}
            onlyChanged={onlyChanged}
          />
        ))}
        {onlyChanged && !targets.length && <p className="dim">This variant changes nothing of it.</p>}
        <Touching {...p} targets={all} />
      </>
    );
  };
  return (
    <>
      {index && state && (
        <Checkbox
          size="xs"
          mb={10}
          label="Only what is changed here"
          checked={onlyChanged}
          onChange={(e) => setOnlyChanged(e.currentTarget.checked)}
        />
      )}
      {body()}
    </>
  );
}

/**
 * Several things at once: what is the same in all shows its value, and what is set is set in all of them, as one edit.
 */
function Many({ index, state, nodes, edit, ...p }: Props & { index: SceneIndex; state: ResolvedState }) {
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
interface Shared {
  readonly property: Property;
  /** What the scene has in all of them; null: not the same. */
  readonly base: Value | null;
}
/** Properties that every one of them has. */
function propertiesOfAll(index: SceneIndex, targets: readonly string[]): Shared[] {
  const names = targets.map((t) => parseTarget(t)!.name);
  return propertiesFor(index, targets[0]!).flatMap((property): Shared[] => {
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
  edit: Props['edit'];
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
  return (
    <div
      className={styles.valueEditorFrame}
      style={{
        gridTemplateColumns:
          property.type === 'vector'
            ? '10px 66px minmax(0, 1fr)'
            : `10px minmax(0, 1fr) ${property.type === 'boolean' ? '72px' : '132px'}`,
      }}
    >
      <span />
      <span className="dim ellipsis" title={property.label}>
        {property.label}
      </span>
      <ValueEditor
        project={project}
        property={property}
        index={index}
        value={value}
        unit={unitOf(property, index, targets[0]!)}
        label={`${title}, ${property.label}`}
        onChange={(v) => edit(targets, property.id, v)}
      />
    </div>
  );
}

function materialsOf(index: SceneIndex, state: ResolvedState, path: string): string[] {
  const parts = index.node(path)?.parts ?? [];
  const worn = parts.length === 1 ? state.get(objectTarget(path), 'object.material') : undefined;
  return typeof worn === 'string'
    ? [worn].filter((m) => index.material(m))
    : [...new Set(parts.map((x) => index.document.materials[x.material]!.name))];
}

function Section({
  titled,
  target,
  onlyChanged,
  ...p
}: Props & { index: SceneIndex; state: ResolvedState; target: string; titled: boolean; onlyChanged: boolean }) {
  const get = (id: string) => p.state.get(target, id);
  const changed = (q: Property) => p.state.provenance(target, q.id) !== undefined;
  const properties = propertiesFor(p.index, target).filter((q) =>
    onlyChanged ? changed(q) : changed(q) || !q.counts || q.counts(get),
  );
  if (!properties.length) return null;
  const row = (property: Property) => <Row key={property.id} {...p} target={target} property={property} />;
  const sections = [...new Set(properties.map((q) => q.section).filter((x) => x !== undefined))];
  return (
    <section>
      {titled && (
        <>
          <hr className="hair" />
          <h4>Material “{targetLabel(target)}”, wherever it is worn</h4>
        </>
      )}
      {properties.filter((q) => q.section === undefined).map(row)}
      {sections.map((title) => {
        const own = properties.filter((q) => q.section === title);
        return (
          <Fold key={title} title={title} forced={onlyChanged || own.some(changed)}>
            {own.map(row)}
            {title === 'Copies' && (
              <CopiesPanel
                index={p.index}
                state={p.state}
                path={parseTarget(target)!.name}
                record={p.record}
                onSelect={p.onSelect}
              />
            )}
          </Fold>
        );
      })}
    </section>
  );
}
/**
 * Rows under a heading: closed until somebody opens them, which holds for all things; what is changed is never hidden.
 */
function Fold({ title, forced, children }: { title: string; forced: boolean; children: ReactNode }) {
  const key = `variscen.fold.${title}`;
  const [open, setOpen] = useState(() => localStorage.getItem(key) === 'open');
  const shown = open || forced;
  return (
    <div>
      <button
        type="button"
        aria-expanded={shown}
        disabled={forced}
        onClick={() => {
          localStorage.setItem(key, open ? '' : 'open');
          setOpen(!open);
        }}
        className={styles.shown}
      >
        {shown ? <IconChevronDown size={12} /> : <IconChevronRight size={12} />}
        {title}
      </button>
      {shown && children}
    </div>
  );
}

function Row({
  project,
  index,
  state,
  target,
  property,
  destination,
  edit,
  onDiscard,
  onClear,
  onDestination,
}: Props & { index: SceneIndex; state: ResolvedState; target: string; property: Property }) {
  const value = state.get(target, property.id)!;
  const source = state.provenance(target, property.id);
  const unit = unitOf(property, index, target);
  const pending = isPending(project, destination.id, target, property.id);
  const recorded = pending
    ? recordedIn(project, destination.id).find((c) => c.target === target && c.property === property.id)?.value
    : undefined;
  const without = recorded ?? (source && valueWithout(state, source));
  const winner = source?.layers.at(-1);
  const set = (v: Value) => {
    if (!sameValue(v, value)) edit([target], property.id, v);
  };
  const facet = winner?.facet ?? property.facet;
  return (
    <div
      className={styles.valueEditorFrame}
      style={{
        gridTemplateColumns:
          property.type === 'vector'
            ? '10px 66px minmax(0, 1fr)'
            : `10px minmax(0, 1fr) ${property.type === 'boolean' ? '40px' : '132px'}`,
      }}
    >
      <span className={styles.source} data-facet={facetOr(property.facet)}>
        {source && <FacetGlyph facet={property.facet} size={10} />}
      </span>
      <span className="dim ellipsis" title={property.label}>
        {property.label}
        {property.type === 'vector' && <span className="faint"> {property.unit}</span>}
      </span>
      <ValueEditor
        project={project}
        property={property}
        index={index}
        value={value}
        unit={unit}
        label={`${targetLabel(target)}, ${property.label}`}
        onChange={set}
      />
      {source && winner && (
        <div className={`faint ${styles.pending}`} data-facet={facetOr(facet)}>
          {pending ? 'Pending in ' : 'Set by '}
          <button
            type="button"
            title={`Send edits to ${layerName(winner)}`}
            onClick={() => onDestination(winner.id)}
            className={styles.source}
            data-on={winner.kind === 'option'}
          >
            {layerName(winner)}
          </button>
          {source.layers.length > 1 && `, overrides ${source.layers.slice(0, -1).map(layerName).join(', ')}`}
          {!sameValue(without, value) && <>; otherwise {valueText(property, without, unit, index)}</>}
          {pending ? (
            <button type="button" onClick={() => onDiscard(target, property.id)} className={styles.link}>
              discard
            </button>
          ) : (
            <button
              type="button"
              aria-label={`Clear ${targetLabel(target)}, ${property.label.toLowerCase()}, in ${layerName(winner)}`}
              title={`Take it out of ${layerName(winner)}`}
              onClick={() => onClear(winner.id, target, property.id)}
              className={styles.link}
            >
              clear
            </button>
          )}
        </div>
      )}
    </div>
  );
}

const layerName = (l: ResolvedValue['layers'][number]): string => (l.kind === 'base' ? 'the base' : l.name);

/** Values in force are copied from what is selected and set on other things, as pending edits. */
function CopyPaste({
  index,
  state,
  targets,
  from,
  record,
}: Props & { index: SceneIndex; state: ResolvedState; targets: readonly string[]; from: string }) {
  const { copied, copy } = useClipboard();
  const paste = useMemo(() => (copied ? pasted(copied, index, state, targets) : []), [copied, index, state, targets]);
  return (
    <>
      <button
        type="button"
        className="tool"
        aria-label={`Copy the values of ${from}`}
        title="Copy its values (Ctrl+C)"
        onClick={() => {
          copy({ from, changes: valuesOf(index, state, targets) });
          say(`The values of ${from} are copied`, 'Select other objects and paste them there.');
        }}
      >
        <IconCopy size={15} stroke={1.6} />
      </button>
      <button
        type="button"
        className="tool"
        disabled={!paste.length}
        aria-label={copied ? `Paste ${plural(paste.length, 'value')} of ${copied.from}` : 'Nothing to paste'}
        title={copied ? `Paste ${plural(paste.length, 'value')} of ${copied.from} (Ctrl+V)` : 'Nothing is copied yet'}
        onClick={() => record(paste)}
      >
        <IconClipboard size={15} stroke={1.6} />
      </button>
    </>
  );
}

/** A material by itself: what wears it, and a copy of it for them. */
function MaterialUse({
  project,
  index,
  state,
  name,
  record,
  onSelect,
  onNodes,
}: Props & { index: SceneIndex; state: ResolvedState; name: string }) {
  const d = index.document;
  const wearers = useMemo(
    () =>
      d.nodes.flatMap((n, i) =>
        n.parts &&
        (n.parts.length === 1
          ? state.get(objectTarget(n.path), 'object.material') === name
          : n.parts.some((x) => d.materials[x.material]!.name === name))
          ? [i]
          : [],
      ),
    [d, state, name],
  );
  const able = wearers.filter((i) => d.nodes[i]!.parts!.length === 1);
  const copy = () => {
    const made = nextCopy(name, copiedMaterials(project));
    record(able.map((i) => ({ target: objectTarget(d.nodes[i]!.path), property: 'object.material', value: made })));
    onSelect(materialTarget(made));
    say(
      `“${made.replace('#', ' ')}” is assigned to ${plural(able.length, 'object')}`,
      'A copy that is like the first until you change it.',
    );
  };
  return (
    <span className={styles.stack}>
      <span>Material of {plural(wearers.length, 'object')}</span>
      <span className={styles.row}>
        <button
          type="button"
          className={`quiet ${styles.quiet}`}
          disabled={!wearers.length}
          onClick={() => onNodes(wearers)}
        >
          Select them
        </button>
        <button
          type="button"
          className={`quiet ${styles.quiet}`}
          disabled={!able.length}
          title="Those that wear it get a copy of their own, to be changed without the scene's"
          onClick={copy}
        >
          Copy as new
        </button>
      </span>
    </span>
  );
}

/** Which options, used here or not, change something of what is selected. */
function Touching({ project, targets, destination, onDestination }: Props & { targets: readonly string[] }) {
  const found = optionsTouching(
    project.options as readonly { id: string; name: string; facet: Property['facet']; changes: Change[] }[],
    targets,
  );
  if (!found.length) return null;
  return (
    <section aria-label="Options that change it" className={styles.optionsThatChangeIt}>
      <h4>Options that change it</h4>
      {found.map((o) => (
        <button
          type="button"
          key={o.id}
          className={`chip ${styles.sendEditsThere}`}
          aria-pressed={destination.id === `option:${o.id}`}
          title="Send edits there"
          onClick={() => onDestination(`option:${o.id}`)}
          data-facet={facetOr(o.facet)}
        >
          <FacetGlyph facet={o.facet} size={11} />
          {o.name}{' '}
          <span className="faint">{plural(o.changes.filter((c) => targets.includes(c.target)).length, 'value')}</span>
        </button>
      ))}
    </section>
  );
}

/** With nothing selected: all that is changed here, by thing. */
function Changed({ index, state, onSelect, ...p }: Props & { index: SceneIndex; state: ResolvedState }) {
  const targets = useMemo(() => {
    const out = new Map<string, ResolvedValue[]>();
    for (const v of state.values.values()) out.set(v.target, [...(out.get(v.target) ?? []), v]);
    return [...out];
  }, [state]);
  const shown = targets.slice(0, MOST_THINGS);
  return (
    <>
      <h3 className={styles.size}>{plural(state.values.size, 'changed value')}</h3>
      <div className={`dim ${styles.node}`}>of {plural(targets.length, 'object')}, in what is shown now</div>
      {shown.map(([target, values]) => (
        <section key={target} className={styles.section}>
          <button type="button" onClick={() => onSelect(target)} className={styles.changedLabel}>
            {index.label(target)}
          </button>
          {values.map((v) => (
            <Row
              key={v.property.id}
              {...p}
              index={index}
              state={state}
              onSelect={onSelect}
              target={target}
              property={v.property}
            />
          ))}
        </section>
      ))}
      {targets.length > shown.length && (
        <p className="dim">and {plural(targets.length - shown.length, 'more thing')}: select some to see theirs.</p>
      )}
    </>
  );
}
const MOST_THINGS = 40;
