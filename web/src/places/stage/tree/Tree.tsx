// The scene's hierarchy, virtualised: only rows on screen exist. Search and filters make it a flat list of what they
// find.
import { useVirtualizer } from '@tanstack/react-virtual';
import type { Project } from '@variscen/contract';
import { type Facet, type ResolvedState, type SceneIndex, targetLabel } from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import { memo, useEffect, useMemo, useRef, useState } from 'react';
import type { Met } from '../../../engine/met.ts';
import { QUESTIONS, type Question, answerOf, changedFacets } from '../../../model/treeQuestions.ts';
import { EVERYTHING, type TreeFilter, type TreeRow, hierarchyOf, layersOf, treeRows } from '../../../model/treeRows.ts';
import { count } from '../../../ui/format.ts';
import { FacetGlyph, facetOr } from '../../../ui/glyphs.tsx';
import { VirtualRows } from '../../../ui/VirtualRows.tsx';
import styles from './Tree.module.css';
import { KIND_WORDS, TreeFilterMenu } from './TreeFilterMenu.tsx';
import { ROW_PX, TreeRowView, rowId } from './TreeRowView.tsx';
import { TreeSelectMenu } from './TreeSelectMenu.tsx';
import { useTreeKeys } from './useTreeKeys.ts';

const WHOLE = [
  ['environment', 'environment'],
  ['scene', 'materials'],
  ['grade', 'grade'],
] as const;

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
  readonly onMet: (what: Met) => void;
  readonly onIntoView: () => void;
  /** A material was let go over a thing. */
  readonly onMaterial: (material: string, node: number) => void;
}

export const Tree = memo(function Tree(props: Props) {
  const { project, index, state, camera, selected, nodes, onSelect, onNodes, onSets, onMet } = props;
  const [find, setFind] = useState('');
  const [filter, setFilter] = useState<TreeFilter>(EVERYTHING);
  const [question, setQuestion] = useState<Question | null>(null);
  const document = index?.document;
  const hierarchy = useMemo(() => document && hierarchyOf(document), [document]);
  const layers = useMemo(() => (document ? layersOf(document) : []), [document]);
  const layerNames = useMemo(() => [...new Set(layers.filter((l) => l !== undefined))].sort(), [layers]);
  const changed = useMemo(() => changedFacets(state), [state]);
  const only = useMemo(
    () => (index && state && question ? answerOf(question, index, state, changed, camera) : undefined),
    [question, index, state, changed, camera],
  );
  const [open, setOpen] = useState<ReadonlySet<number>>(new Set([0]));
  const rows = useMemo(
    () => (document && hierarchy ? treeRows(document, hierarchy, open, { ...filter, find, only }, layers) : []),
    [document, hierarchy, open, filter, find, only, layers],
  );
  const isFiltered = filter !== EVERYTHING || question !== null;
  const showAll = () => {
    setFilter(EVERYTHING);
    setQuestion(null);
  };
  // what was picked in the view is unfolded
  const last = nodes.at(-1);
  useEffect(() => {
    if (last === undefined || !document) return;
    const above: number[] = [];
    for (let p = document.nodes[last]!.parent; p >= 0; p = document.nodes[p]!.parent) above.push(p);
    setOpen((o) => (above.every((p) => o.has(p)) ? o : new Set([...o, ...above])));
  }, [last, document]);
  const toggle = (n: number) => setOpen((o) => flipped(o, n));
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
        <TreeFilterMenu
          document={document}
          layerNames={layerNames}
          filter={filter}
          question={question}
          onFilter={setFilter}
          onQuestion={setQuestion}
        />
        <TreeSelectMenu
          sets={project.sets}
          index={index}
          state={state}
          hierarchy={hierarchy}
          rows={rows}
          nodes={nodes}
          hasCamera={camera !== undefined}
          onNodes={onNodes}
          onSets={onSets}
          onMet={onMet}
        />
      </div>
      <div className={styles.filtered}>
        {isFiltered ? (
          <FilterWords filter={filter} question={question} onShowAll={showAll} />
        ) : (
          <WholeScene selected={selected} onSelect={onSelect} />
        )}
      </div>
      <Rows
        {...props}
        rows={rows}
        below={hierarchy?.below}
        changed={changed}
        onToggle={toggle}
        empty={
          find
            ? `Nothing ${isFiltered ? 'that passes the filter ' : ''}is called “${find}”.`
            : 'Nothing passes the filter.'
        }
      />
      <div className={`dim mono ${styles.status}`} role="status">
        {statusText(isFiltered || find !== '', rows.length, nodes.length)}
      </div>
    </section>
  );
});

function flipped(open: ReadonlySet<number>, n: number): ReadonlySet<number> {
  const next = new Set(open);
  if (!next.delete(n)) next.add(n);
  return next;
}
function statusText(isSought: boolean, found: number, selected: number): string {
  const words = [isSought && `${count(found)} found`, selected > 1 && `${count(selected)} selected`];
  return words.filter(Boolean).join(' · ') || '\u00a0';
}

interface FilterProps {
  filter: TreeFilter;
  question: Question | null;
  onShowAll: () => void;
}
function FilterWords({ filter, question, onShowAll }: FilterProps) {
  const words = [
    ...filter.kinds.map((k) => KIND_WORDS[k]),
    ...filter.layers,
    ...filter.materials,
    ...(question ? [QUESTIONS[question]] : []),
  ];
  return (
    <div className={`dim ${styles.row}`}>
      <span className="ellipsis">{words.join(', ')}</span>
      <button type="button" className={styles.showAll} onClick={onShowAll}>
        Show all
      </button>
    </div>
  );
}

/** What belongs to no object. */
function WholeScene({ selected, onSelect }: { selected: string | null; onSelect: (target: string) => void }) {
  return WHOLE.map(([id, facet]) => (
    <button
      type="button"
      key={id}
      onClick={() => onSelect(id)}
      aria-pressed={selected === id}
      className={styles.targetLabel}
    >
      <span className={styles.facetGlyphFrame} data-facet={facetOr(facet)}>
        <FacetGlyph facet={facet} />
      </span>
      {targetLabel(id)}
    </button>
  ));
}

interface RowsProps extends Props {
  rows: readonly TreeRow[];
  /** Objects and lights below each node. */
  below: Int32Array | undefined;
  changed: ReadonlyMap<string, Facet>;
  onToggle: (node: number) => void;
  /** Said where there is no row. */
  empty: string;
}
function Rows({ rows, below, changed, onToggle, empty, ...p }: RowsProps) {
  const { index, state, nodes, onNodes, onIntoView, onMaterial } = p;
  const document = index?.document;
  const box = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW_PX,
    overscan: 12,
  });
  const selected = useMemo(() => new Set(nodes), [nodes]);
  const current = nodes.at(-1);
  const place = useMemo(() => rows.findIndex((r) => r.node === current), [rows, current]);
  useEffect(() => {
    if (place >= 0) list.scrollToIndex(place);
  }, [place, list]);
  const { onClick, onKey } = useTreeKeys({ document, rows, nodes, place, onNodes, onToggle, onIntoView });
  return (
    <div
      ref={box}
      role="tree"
      aria-label="Objects"
      aria-multiselectable
      aria-activedescendant={place < 0 || current === undefined ? undefined : rowId(current)}
      tabIndex={0}
      onKeyDown={onKey}
      className={styles.objects}
    >
      <VirtualRows heightPx={list.getTotalSize()}>
        {document &&
          list.getVirtualItems().map((item) => {
            const row = rows[item.index]!;
            const node = document.nodes[row.node]!;
            return (
              <TreeRowView
                key={row.node}
                row={row}
                node={node}
                state={state}
                facet={changed.get(node.path)}
                below={below?.[row.node] ?? 0}
                topPx={item.start}
                isSelected={selected.has(row.node)}
                isCurrent={row.node === current}
                onClick={(e) => onClick(e, row.node)}
                onToggle={() => onToggle(row.node)}
                onMaterial={(material) => onMaterial(material, row.node)}
              />
            );
          })}
      </VirtualRows>
      {rows.length === 0 && document && <p className={`dim ${styles.sought}`}>{empty}</p>}
    </div>
  );
}
