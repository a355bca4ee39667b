// The scene's hierarchy, virtualised: only rows on screen exist. Search and filters make it a flat list of what they
// find.
import { Menu, Modal, TextInput } from '@mantine/core';
import { IconChevronDown, IconChevronRight, IconFilter, IconStack2 } from '@tabler/icons-react';
import { useVirtualizer } from '@tanstack/react-virtual';
import type { Project } from '@variscen/contract';
import { framePlanes, outside } from '@variscen/core/cull';
import {
  type ResolvedState,
  type SceneIndex,
  copyPlaces,
  objectTarget,
  parseTarget,
  targetLabel,
} from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import { materialLabelOf, placements } from '@variscen/core/scene';
import { type KeyboardEvent, type MouseEvent, memo, useEffect, useMemo, useRef, useState } from 'react';
import { Buttons } from '../../../ui/Buttons.tsx';
import { count, plural } from '../../../ui/format.ts';
import { FacetGlyph, facetOr } from '../../../ui/glyphs.tsx';
import { MATERIAL_DRAG } from '../../../model/materialDrag.ts';
import { clicked, inverse, sameMaterial, withChildren } from '../../../model/selection.ts';
import {
  EVERYTHING,
  KINDS,
  type Kind,
  type TreeFilter,
  hierarchyOf,
  layersOf,
  treeRows,
} from '../../../model/treeRows.ts';
import styles from './Tree.module.css';

const ROW_PX = 26;
const WHOLE = [
  ['environment', 'environment'],
  ['scene', 'materials'],
  ['grade', 'grade'],
] as const;
const KIND_WORDS: Readonly<Record<Kind, string>> = {
  object: 'Objects',
  group: 'Groups',
  light: 'Lights',
  camera: 'Cameras',
};
const QUESTIONS = {
  hidden: 'Hidden in this variant',
  changed: 'Changed in this variant',
  offFrame: 'Off frame for this camera',
} as const;
type Question = keyof typeof QUESTIONS;

interface Props {
  readonly project: Project;
  readonly index: SceneIndex | undefined;
  readonly state: ResolvedState | undefined;
  readonly camera: CameraSettings | undefined;
  readonly selected: string | null;
  readonly nodes: readonly number[];
  readonly onSelect: (target: string) => void;
  readonly onNodes: (nodes: readonly number[]) => void;
  readonly onSets: (sets: Project['sets']) => void;
  readonly onSeen: () => void;
  readonly onIntoView: () => void;
  /** A material was let go over a thing. */
  readonly onMaterial: (material: string, node: number) => void;
}

export const Tree = memo(function Tree({
  project,
  index,
  state,
  camera,
  selected,
  nodes,
  onSelect,
  onNodes,
  onSets,
  onSeen,
  onIntoView,
  onMaterial,
}: Props) {
  const [find, setFind] = useState('');
  const [filter, setFilter] = useState<TreeFilter>(EVERYTHING);
  const [question, setQuestion] = useState<Question | null>(null);
  const [open, setOpen] = useState<ReadonlySet<number>>(new Set([0]));
  const box = useRef<HTMLDivElement>(null);
  const last = useRef<number>(undefined);
  const document = index?.document;
  const [naming, setNaming] = useState<string | null>(null);
  const hierarchy = useMemo(() => document && hierarchyOf(document), [document]);
  const layers = useMemo(() => (document ? layersOf(document) : []), [document]);
  const layerNames = useMemo(() => [...new Set(layers.filter((l) => l !== undefined))].sort(), [layers]);
  const changed = useMemo(() => {
    const m = new Map<string, string>();
    for (const v of state?.values.values() ?? [])
      if (v.layers.some((l) => l.kind !== 'base')) {
        const t = parseTarget(v.target)!;
        if (t.kind === 'object' || t.kind === 'light') m.set(t.name, v.property.facet);
      }
    return m;
  }, [state]);
  const only = useMemo(
    () => (document && state && question ? asked(question, document, state, changed, camera) : undefined),
    [question, document, state, changed, camera],
  );
  const sought = find;
  const rows = useMemo(
    () => (document && hierarchy ? treeRows(document, hierarchy, open, { ...filter, find: sought, only }, layers) : []),
    [document, hierarchy, open, filter, sought, only, layers],
  );
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW_PX,
    overscan: 12,
  });
  const chosen = useMemo(() => new Set(nodes), [nodes]);
  const at = nodes.at(-1);
  const filtered = filter !== EVERYTHING || question !== null;
  // what was picked in the view is unfolded and scrolled to
  useEffect(() => {
    if (at === undefined || !document) return;
    setOpen((o) => {
      const next = new Set(o);
      for (let p = document.nodes[at]!.parent; p >= 0; p = document.nodes[p]!.parent) next.add(p);
      return next.size === o.size ? o : next;
    });
  }, [at, document]);
  const place = useMemo(() => rows.findIndex((r) => r.node === at), [rows, at]);
  useEffect(() => {
    if (place >= 0) list.scrollToIndex(place);
  }, [place, list]);
  const toggle = (n: number) =>
    setOpen((o) => {
      const next = new Set(o);
      if (!next.delete(n)) next.add(n);
      return next;
    });
  const pick = (n: number, how: 'alone' | 'more' | 'through') => {
    const next = clicked(
      rows.map((r) => r.node),
      nodes,
      last.current ?? at,
      n,
      how,
    );
    if (how !== 'through') last.current = n;
    onNodes(how === 'more' || how === 'alone' ? next : [...next.filter((x) => x !== n), n]);
  };
  const onClick = (e: MouseEvent, n: number) => {
    const one = e.ctrlKey || e.metaKey ? 'more' : 'alone';
    pick(n, e.shiftKey ? 'through' : one);
  };
  const onKey = (e: KeyboardEvent) => {
    const row = rows[place];
    if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
      const next = rows[Math.min(rows.length - 1, Math.max(0, place + (e.key === 'ArrowDown' ? 1 : -1)))];
      if (next) {
        if (e.shiftKey) onNodes([...nodes.filter((n) => n !== next.node), next.node]);
        else pick(next.node, 'alone');
      }
    } else if (e.key === 'Home' || e.key === 'End') {
      const next = rows.at(e.key === 'Home' ? 0 : -1);
      if (next) pick(next.node, 'alone');
    } else if (row && e.key === 'ArrowRight' && row.children && !row.open) toggle(row.node);
    else if (row && e.key === 'ArrowLeft') {
      if (row.open) toggle(row.node);
      else if (document!.nodes[row.node]!.parent >= 0) pick(document!.nodes[row.node]!.parent, 'alone');
    } else if (e.key === 'Enter' && !e.ctrlKey && !e.metaKey && nodes.length) onIntoView();
    else if (e.key === 'a' && (e.ctrlKey || e.metaKey)) onNodes(rows.map((r) => r.node));
    else return;
    e.preventDefault();
  };
  const save = (name: string) => {
    if (!document) return;
    onSets([
      ...project.sets.filter((s) => s.name.toLowerCase() !== name.toLowerCase()),
      { name, paths: nodes.map((n) => document.nodes[n]!.path) },
    ]);
    setNaming(null);
  };
  const flip = <K extends 'kinds' | 'layers' | 'materials'>(key: K, value: TreeFilter[K][number]) =>
    setFilter((f) => {
      const listed = f[key] as readonly string[];
      const next = { ...f, [key]: listed.includes(value) ? listed.filter((x) => x !== value) : [...listed, value] };
      return next.kinds.length || next.layers.length || next.materials.length ? next : EVERYTHING;
    });
  const tick = (on: boolean) => (
    <span aria-hidden className={styles.text}>
      {on ? '✓' : ''}
    </span>
  );
  return (
    <section aria-label="Scene" className={styles.scene}>
      <div className={styles.menuFrame}>
        <input
          value={find}
          onChange={(e) => setFind(e.currentTarget.value)}
          placeholder={document ? `Find among ${count(document.nodes.length)} parts` : 'Loading …'}
          aria-label="Find in the scene"
          className={styles.findInTheScene}
        />
        <Menu closeOnItemClick={false} position="bottom-end">
          <Menu.Target>
            <button
              type="button"
              className="tool"
              aria-pressed={filtered}
              aria-label="Filter the scene"
              title="Filter the scene"
            >
              <IconFilter size={15} stroke={1.6} />
            </button>
          </Menu.Target>
          <Menu.Dropdown mah={460} className={styles.layerNames}>
            <Menu.Label>Kind</Menu.Label>
            {KINDS.map((k) => (
              <Menu.Item key={k} leftSection={tick(filter.kinds.includes(k))} onClick={() => flip('kinds', k)}>
                {KIND_WORDS[k]}
              </Menu.Item>
            ))}
            <Menu.Label>Only</Menu.Label>
            {(Object.keys(QUESTIONS) as Question[]).map((q) => (
              <Menu.Item
                key={q}
                leftSection={tick(question === q)}
                onClick={() => setQuestion(question === q ? null : q)}
              >
                {QUESTIONS[q]}
              </Menu.Item>
            ))}
            {layerNames.length > 0 && (
              <>
                <Menu.Label>Layer of the file</Menu.Label>
                {layerNames.map((l) => (
                  <Menu.Item key={l} leftSection={tick(filter.layers.includes(l))} onClick={() => flip('layers', l)}>
                    {l}
                  </Menu.Item>
                ))}
              </>
            )}
            <Menu.Label>Material</Menu.Label>
            {document?.materials.map((m) => (
              <Menu.Item
                key={m.name}
                leftSection={tick(filter.materials.includes(m.name))}
                onClick={() => flip('materials', m.name)}
              >
                {materialLabelOf(m)}
              </Menu.Item>
            ))}
          </Menu.Dropdown>
        </Menu>
        <Menu position="bottom-end">
          <Menu.Target>
            <button
              type="button"
              className="tool"
              aria-label="Select and named selections"
              title="Select and named selections"
            >
              <IconStack2 size={15} stroke={1.6} />
            </button>
          </Menu.Target>
          <Menu.Dropdown mah={460} className={styles.layerNames}>
            <Menu.Item disabled={!rows.length} onClick={() => onNodes(rows.map((r) => r.node))}>
              Select all {count(rows.length)} rows
            </Menu.Item>
            <Menu.Item disabled={!nodes.length} onClick={() => hierarchy && onNodes(withChildren(hierarchy, nodes))}>
              Add children
            </Menu.Item>
            <Menu.Item
              disabled={!nodes.length}
              onClick={() => document && hierarchy && onNodes(inverse(document, hierarchy, nodes))}
            >
              Invert selection
            </Menu.Item>
            <Menu.Item
              disabled={!nodes.length || !state}
              onClick={() => document && hierarchy && state && onNodes(sameMaterial(document, hierarchy, state, nodes))}
            >
              Select same material
            </Menu.Item>
            <Menu.Item disabled={!camera} onClick={onSeen}>
              Select what the camera sees
            </Menu.Item>
            <Menu.Label>Named selections</Menu.Label>
            {project.sets.map((s) => (
              <Menu.Item
                key={s.name}
                rightSection={<span className="mono faint">{count(s.paths.length)}</span>}
                onClick={() => index && onNodes(s.paths.map((p) => index.nodes.get(p)).filter((n) => n !== undefined))}
              >
                {s.name}
              </Menu.Item>
            ))}
            <Menu.Item disabled={!nodes.length} onClick={() => setNaming('')}>
              Name this selection…
            </Menu.Item>
            {project.sets.length > 0 && (
              <>
                <Menu.Label>Forget</Menu.Label>
                {project.sets.map((s) => (
                  <Menu.Item key={s.name} onClick={() => onSets(project.sets.filter((x) => x !== s))}>
                    {s.name}
                  </Menu.Item>
                ))}
              </>
            )}
          </Menu.Dropdown>
        </Menu>
      </div>
      <div className={styles.filtered}>
        {filtered ? (
          <div className={`dim ${styles.row}`}>
            <span className="ellipsis">
              {[
                ...filter.kinds.map((k) => KIND_WORDS[k]),
                ...filter.layers,
                ...filter.materials,
                ...(question ? [QUESTIONS[question]] : []),
              ].join(', ')}
            </span>
            <button
              type="button"
              className={styles.showAll}
              onClick={() => {
                setFilter(EVERYTHING);
                setQuestion(null);
              }}
            >
              Show all
            </button>
          </div>
        ) : (
          WHOLE.map(([id, facet]) => (
            <button
              type="button"
              key={id}
              onClick={() => onSelect(id)}
              aria-pressed={selected === id}
              className={styles.targetLabel}
              style={{ height: ROW_PX, background: selected === id ? 'var(--raised)' : undefined }}
            >
              <span className={styles.facetGlyphFrame} data-facet={facetOr(facet)}>
                <FacetGlyph facet={facet} />
              </span>
              {targetLabel(id)}
            </button>
          ))
        )}
      </div>
      <div
        ref={box}
        role="tree"
        aria-label="Objects"
        aria-multiselectable
        tabIndex={0}
        onKeyDown={onKey}
        className={styles.objects}
      >
        <div className={styles.rows} style={{ height: list.getTotalSize() }}>
          {list.getVirtualItems().map((item) => {
            const row = rows[item.index]!;
            const n = document!.nodes[row.node]!;
            const facet = changed.get(n.path);
            const hidden = state?.get(objectTarget(n.path), 'object.shown') === false;
            const copies = state ? copyPlaces(state, n.path).length : 0;
            const layer = n.layer;
            return (
              <div
                key={row.node}
                role="treeitem"
                aria-selected={chosen.has(row.node)}
                aria-expanded={row.children ? row.open : undefined}
                aria-level={row.depth + 1}
                onClick={(e) => onClick(e, row.node)}
                onDoubleClick={() => row.children && toggle(row.node)}
                onDragOver={(e) => {
                  if (e.dataTransfer.types.includes(MATERIAL_DRAG)) e.preventDefault();
                }}
                onDrop={(e) => {
                  const m = e.dataTransfer.getData(MATERIAL_DRAG);
                  if (m) {
                    e.preventDefault();
                    onMaterial(m, row.node);
                  }
                }}
                className={styles.treeitem}
                style={{
                  top: item.start,
                  height: ROW_PX,
                  padding: `0 10px 0 ${8 + row.depth * 13}px`,
                  background: backgroundOf(chosen.has(row.node), row.node === at),
                  color: hidden ? 'var(--faint)' : undefined,
                  textDecoration: hidden ? 'line-through' : undefined,
                }}
              >
                <button
                  type="button"
                  tabIndex={-1}
                  aria-label={row.open ? 'Fold' : 'Unfold'}
                  onClick={(e) => {
                    e.stopPropagation();
                    toggle(row.node);
                  }}
                  className={styles.open}
                  style={{ visibility: row.children ? 'visible' : 'hidden' }}
                >
                  {row.open ? <IconChevronDown size={13} /> : <IconChevronRight size={13} />}
                </button>
                <span className="ellipsis" title={n.filePath ?? n.path}>
                  {n.name}
                </span>
                {facet && (
                  <i
                    title={`Changed in this variant: ${facet}`}
                    className={styles.mark}
                    style={{ background: `var(--${facet})` }}
                  />
                )}
                <span className={`faint ${styles.copies}`}>
                  {copies > 0 && (
                    <span title={`${plural(copies, 'copy', 'copies')} in this variant, listed with the object`}>
                      and {count(copies)} {copies === 1 ? 'copy' : 'copies'}{' '}
                    </span>
                  )}
                  {layer && <span title={`Layer “${layer}” of the file`}>{layer} </span>}
                  {n.light !== undefined && 'light'}
                  {n.light === undefined && n.camera !== undefined && 'camera'}
                  {row.children > 0 && <span className="mono"> {count(hierarchy!.below[row.node]!)}</span>}
                </span>
              </div>
            );
          })}
        </div>
        {rows.length === 0 && document && (
          <p className={`dim ${styles.sought}`}>
            {sought
              ? `Nothing ${filtered ? 'that passes the filter ' : ''}is called “${sought}”.`
              : 'Nothing passes the filter.'}
          </p>
        )}
      </div>
      <div className={`dim mono ${styles.status}`} role="status">
        {filtered || sought ? `${count(rows.length)} found` : ''}
        {(filtered || sought) && nodes.length > 1 ? ' · ' : ''}
        {nodes.length > 1 ? `${count(nodes.length)} selected` : ''}
        {!filtered && !sought && nodes.length < 2 ? ' ' : ''}
      </div>
      <Modal
        opened={naming !== null}
        onClose={() => setNaming(null)}
        title={`Name this selection of ${plural(nodes.length, 'part')}`}
      >
        <form
          onSubmit={(e) => {
            e.preventDefault();
            save(naming!.trim());
          }}
        >
          <TextInput
            data-autofocus
            label="Name"
            value={naming ?? ''}
            maxLength={120}
            onChange={(e) => setNaming(e.currentTarget.value)}
            description={
              project.sets.some((s) => s.name.toLowerCase() === naming?.trim().toLowerCase())
                ? 'Takes the place of the one with that name.'
                : undefined
            }
          />
          <Buttons label="Keep selection" disabled={!naming?.trim()} onCancel={() => setNaming(null)} />
        </form>
      </Modal>
    </section>
  );
});

function asked(
  question: Question,
  d: SceneIndex['document'],
  state: ResolvedState,
  changed: ReadonlyMap<string, string>,
  camera: CameraSettings | undefined,
): (node: number) => boolean {
  if (question === 'changed') return (i) => changed.has(d.nodes[i]!.path);
  if (question === 'hidden') {
    const hidden: boolean[] = [];
    d.nodes.forEach((n) =>
      hidden.push(
        (n.parent >= 0 && hidden[n.parent]!) ||
          state.get(objectTarget(n.path), 'object.shown') === false ||
          state.get(`light:${n.path}`, 'light.on') === false,
      ),
    );
    return (i) => hidden[i]!;
  }
  if (!camera) return () => false;
  const planes = framePlanes(camera, 0);
  const world = placements(d);
  return (i) => {
    const parts = d.nodes[i]!.parts;
    return (
      parts !== undefined &&
      parts.every((p) => {
        const { min, max } = d.meshes[p.mesh]!;
        return outside(planes, min, max, world[i]!);
      })
    );
  };
}

function backgroundOf(selected: boolean, current: boolean): string | undefined {
  if (!selected) return undefined;
  return current ? '#3b3b3b' : 'var(--raised)';
}
